namespace GateChain.Kinds.Plugins;

/// <summary>
/// Finds what a folder of plug-ins holds: in each of its folders either a <c>kind.yaml</c>, or an assembly that is
/// called as the folder is.
/// </summary>
static class PluginReader
{
    /// <summary>The kinds and probes, each with the file that it comes from.</summary>
    /// <exception cref="PluginException">Something there is no plug-in, or can't be loaded.</exception>
    public static IEnumerable<(object Plugin, string Where)> Read(string folder)
    {
        if (!Directory.Exists(folder))
            throw new PluginException(folder, "the plug-in folder is not there");
        foreach (var one in Directory.EnumerateDirectories(Path.GetFullPath(folder)).Order(StringComparer.Ordinal))
        {
            var (yaml, assembly) = (
                Path.Combine(one, ProgramKindFile.Name),
                Path.Combine(one, Path.GetFileName(one) + ".dll")
            );
            if (File.Exists(yaml))
            {
                yield return (ProgramKindFile.Read(yaml), yaml);
            }
            else if (File.Exists(assembly))
            {
                foreach (var plugin in PluginAssembly.Load(assembly))
                    yield return (plugin, assembly);
            }
            else
            {
                throw new PluginException(
                    one,
                    $"a plug-in's folder holds {ProgramKindFile.Name} or {Path.GetFileName(assembly)}, "
                        + "and this one has neither"
                );
            }
        }
    }
}
