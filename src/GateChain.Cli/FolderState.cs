using System.Text.Json;
using GateChain.Engine.Workspaces;

namespace GateChain.Cli;

/// <summary>
/// What a folder had when it last was in step with a service, as hashes by path, for each service by its address, in
/// <c>.gatechain/base.json</c>. With it a push sees what somebody has changed in the service meanwhile. It may be kept
/// with the folder, in version control too.
/// </summary>
static class FolderState
{
    static string FileIn(string folder) => Path.Combine(folder, ".gatechain", "base.json");

    static readonly JsonSerializerOptions Written = new() { WriteIndented = true };

    /// <summary>What is known; null when nothing is, or it can't be read.</summary>
    /// <param name="folder">The folder.</param>
    /// <param name="service">The service.</param>
    public static IReadOnlyDictionary<string, string>? Read(string folder, Uri service) =>
        All(folder).GetValueOrDefault(service.ToString());

    static SortedDictionary<string, SortedDictionary<string, string>> All(string folder)
    {
        try
        {
            if (File.Exists(FileIn(folder)))
            {
                return JsonSerializer.Deserialize<SortedDictionary<string, SortedDictionary<string, string>>>(
                    File.ReadAllText(FileIn(folder))
                ) ?? [];
            }
        }
        catch (Exception e) when (e is JsonException or IOException or UnauthorizedAccessException)
        {
            // As if nothing were known.
        }
        return [];
    }

    /// <summary>
    /// Of files that a service has, those that the folder has with another content, and not as it was when it last was
    /// in step: somebody has changed them here.
    /// </summary>
    public static IReadOnlyList<string> Edited(string folder, Uri service, IReadOnlyDictionary<string, byte[]> files)
    {
        var known = Read(folder, service);
        return
        [
            .. files
                .Where(f => File.Exists(Path.Combine(folder, f.Key)))
                .Where(f =>
                    Overwrites.HashOf(File.ReadAllBytes(Path.Combine(folder, f.Key))) is var here
                    && here != Overwrites.HashOf(f.Value)
                    && here != known?.GetValueOrDefault(f.Key)
                )
                .Select(f => f.Key)
                .Order(StringComparer.Ordinal),
        ];
    }

    /// <summary>
    /// The folder is in step with the service in these files. Where that can't be written, it is left: the next push
    /// knows less.
    /// </summary>
    public static void Write(string folder, Uri service, IReadOnlyDictionary<string, byte[]> files)
    {
        var all = All(folder);
        if (!all.TryGetValue(service.ToString(), out var known))
            all[service.ToString()] = known = new(StringComparer.Ordinal);
        foreach (var (path, content) in files)
            known[path] = Overwrites.HashOf(content);
        try
        {
            Directory.CreateDirectory(Path.GetDirectoryName(FileIn(folder))!);
            File.WriteAllText(FileIn(folder), JsonSerializer.Serialize(all, Written) + "\n");
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            Console.Error.WriteLine($"what this folder was in step with could not be kept: {e.Message}");
        }
    }
}
