using System.Reflection;
using System.Runtime.Loader;
using GateChain.Kinds.Contract;

namespace GateChain.Kinds.Plugins;

/// <summary>
/// Loads kinds from an assembly. Its own libraries stand beside it; what it shares with the service is the service's.
/// </summary>
static class PluginAssembly
{
    /// <summary>An instance of every public class in it that is a kind or a probe.</summary>
    /// <exception cref="PluginException">It can't be loaded, or holds none.</exception>
    public static IReadOnlyList<object> Load(string path)
    {
        try
        {
            var found = new Context(path)
                .LoadFromAssemblyPath(path)
                .GetExportedTypes()
                .Where(t =>
                    t is { IsAbstract: false, IsClass: true }
                    && (typeof(IStepKind).IsAssignableFrom(t) || typeof(IProbe).IsAssignableFrom(t))
                )
                .Select(t => Activator.CreateInstance(t)!)
                .ToList();
            return found.Count > 0
                ? found
                : throw new PluginException(
                    path,
                    $"it holds no public class that is an {nameof(IStepKind)} or an {nameof(IProbe)}"
                );
        }
        catch (Exception e)
            when (e
                    is BadImageFormatException
                        or FileLoadException
                        or FileNotFoundException
                        or TypeLoadException
                        or MissingMethodException
                        or ReflectionTypeLoadException
            )
        {
            throw new PluginException(path, $"it can't be loaded: {e.Message}; was it built for this version?");
        }
        catch (TargetInvocationException e)
        {
            throw new PluginException(path, $"a kind in it can't be made: {e.InnerException?.Message}");
        }
    }

    sealed class Context(string path) : AssemblyLoadContext(Path.GetFileNameWithoutExtension(path))
    {
        readonly AssemblyDependencyResolver _resolver = new(path);

        // What the service has already is taken from there: a kind is one only by the service's own contract.
        protected override Assembly? Load(AssemblyName name)
        {
            if (Default.Assemblies.Any(a => a.GetName().Name == name.Name))
                return null;
            try
            {
                return Default.LoadFromAssemblyName(name);
            }
            catch (FileNotFoundException)
            {
                return _resolver.ResolveAssemblyToPath(name) is { } file ? LoadFromAssemblyPath(file) : null;
            }
        }
    }
}
