using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Databases;
using GateChain.Kinds.Files;
using GateChain.Kinds.FileServers;
using GateChain.Kinds.Load.Sources;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Load.Looking;

/// <summary>What a load step would meet, before anything runs. Failures are told, not thrown.</summary>
/// <param name="What">What was looked at; null when nothing could be.</param>
/// <param name="Sample">What the step makes of the first rows as it is set; null when it can't read them.</param>
/// <param name="Found">What the file itself seems to be; null for a query, and where that can't be told.</param>
/// <param name="Problem">Why there is no sample; null when there is one.</param>
public sealed record LoadLook(string? What, RowSample? Sample, FileLook? Found, string? Problem)
{
    /// <summary>The most rows of a query that are looked at.</summary>
    public const int MostOfQuery = 1_000;

    /// <summary>The largest file that is brought from a server to look at it, in bytes.</summary>
    public const int LargestFetched = 16 << 20;

    /// <summary>Looks once.</summary>
    /// <param name="settings">The step's settings, as far as they are about what is read.</param>
    public static LoadLook At(Value settings, AttemptContext context, CancellationToken cancel)
    {
        // Where rows go is not asked about.
        var (bound, problem) = SettingsBinder.Bind<LoadSettings>(
            Value.Map(
                DictionaryMap.Of([
                    .. settings.AsMap.Entries.Select(e => KeyValuePair.Create(e.Key.AsString, e.Value)),
                    KeyValuePair.Create("into", Value.EmptyMap),
                ])
            )
        );
        if (bound is null)
            return new(null, null, null, problem);
        // All that is there is shown, whatever earlier loads have read.
        bound = bound with { From = bound.From with { Since = null } };
        if (bound.From.Connection is { } connection)
        {
            var (rows, why) = Try(() => SampleOf(bound, MostOfQuery, context, cancel), connection);
            return new(bound.From.Table ?? $"a query of {connection}", rows, null, why);
        }
        if (PathOf(bound.From) is not { } path)
            return new(null, null, null, "Say first where rows come from.");
        var (here, where) = Try(() => Here(bound.From, path, context, cancel), bound.From.Server);
        if (here is null)
            return new(path, null, null, where);
        using (here)
        {
            var from = here.IsFetched ? With(bound.From, here.Path) : bound.From;
            var (sample, why) = Try(
                () => SampleOf(bound with { From = from }, FileLook.MostRows, context, cancel),
                null
            );
            var (found, _) = Try(() => FileLook.At(here.Name, here.Path, null, cancel), null);
            return new(here.Name, sample, found, why);
        }
    }

    static RowSample SampleOf(LoadSettings settings, int most, AttemptContext context, CancellationToken cancel)
    {
        using var source = RowSources.Open(settings, context, cancel);
        return RowSample.Of(settings, source, most, cancel);
    }

    static string? PathOf(LoadFrom from) =>
        from.Csv ?? from.Fixed ?? from.Jsonl ?? from.Json ?? from.Xml ?? from.Parquet ?? from.Xlsx;

    static LoadFrom With(LoadFrom there, string path) =>
        there with
        {
            Csv = there.Csv is null ? null : path,
            Fixed = there.Fixed is null ? null : path,
            Jsonl = there.Jsonl is null ? null : path,
            Json = there.Json is null ? null : path,
            Xml = there.Xml is null ? null : path,
            Parquet = there.Parquet is null ? null : path,
            Xlsx = there.Xlsx is null ? null : path,
            Server = null,
        };

    /// <summary>A file on this machine, and whether it was brought here for this look alone.</summary>
    sealed record Place(string Name, string Path, string? Folder) : IDisposable
    {
        public bool IsFetched => Folder is not null;

        public void Dispose()
        {
            if (Folder is not null)
                Directory.Delete(Folder, recursive: true);
        }
    }

    // The first one, where there are several.
    static Place Here(LoadFrom from, string path, AttemptContext context, CancellationToken cancel)
    {
        if (from.Server is { } server)
            return Fetch(server, path, context, cancel);
        if (!NamePattern.Is(path))
            return new(path, context.Resolve(path), null);
        var first = FilePattern.Match(context.Folders, context.WorkFolder, path, cancel).FirstOrDefault()
            ?? throw new StepFailedException("no-file", $"no file is named like {path}");
        return new(System.IO.Path.GetRelativePath(context.WorkFolder, first.FullName), first.FullName, null);
    }

    static Place Fetch(string connection, string pattern, AttemptContext context, CancellationToken cancel)
    {
        using var server = FileServer.Open(context.Connections.Require(connection), context.Secrets, cancel);
        var file = server.Match(pattern, 1) is [var first]
            ? first
            : throw new StepFailedException("no-file", $"no file of “{connection}” is named like {pattern}");
        if (file.Length > LargestFetched)
        {
            throw new StepFailedException(
                "size",
                $"{file.Path} has {file.Length >> 20} MiB: more than {LargestFetched >> 20} MiB are not fetched "
                    + "to look at them"
            );
        }
        var folder = Directory.CreateTempSubdirectory("gatechain-look-").FullName;
        var place = new Place(file.Name, System.IO.Path.Combine(folder, System.IO.Path.GetFileName(file.Name)), folder);
        try
        {
            using var source = server.Read(file, 0);
            using var target = File.Create(place.Path);
            source.CopyTo(target);
            return place;
        }
        catch
        {
            place.Dispose();
            throw;
        }
    }

    static (T? Seen, string? Problem) Try<T>(Func<T> look, string? connection)
        where T : class
    {
        try
        {
            return (look(), null);
        }
        catch (StepFailedException e)
        {
            return (null, e.Message);
        }
        catch (Exception e) when (Dialects.Error(e, connection) is { } known)
        {
            return (null, known.Message);
        }
        catch (Exception e) when (FileServer.Error(e) is { } known)
        {
            return (null, known.Message);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException or InvalidDataException)
        {
            return (null, e.Message);
        }
    }
}
