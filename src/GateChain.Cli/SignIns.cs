using System.Text.Json;

namespace GateChain.Cli;

/// <summary>
/// What the command line shows to services, by address: in the user's folder of settings, in a file that nobody else
/// reads.
/// </summary>
static class SignIns
{
    /// <summary>The variable of the environment with a token.</summary>
    public const string Variable = "GATECHAIN_TOKEN";

    static string Folder =>
        Path.Combine(
            Environment.GetEnvironmentVariable("XDG_CONFIG_HOME") is { Length: > 0 } folder
                ? folder
                : Path.Combine(Environment.GetFolderPath(Environment.SpecialFolder.UserProfile), ".config"),
            "gatechain"
        );

    static string File => Path.Combine(Folder, "sign-ins.json");

    /// <summary>The token for a service: what is given, what the environment has, or what was kept; null for
    /// none.</summary>
    public static string? Find(string? given, Uri service) =>
        given
        ?? (Environment.GetEnvironmentVariable(Variable) is { Length: > 0 } set ? set : null)
        ?? Read().GetValueOrDefault(Key(service));

    // A service is its host and port; what stands behind them is its own.
    static string Key(Uri service) => service.GetLeftPart(UriPartial.Authority);

    /// <exception cref="IOException">The file can't be read.</exception>
    static Dictionary<string, string> Read()
    {
        if (!System.IO.File.Exists(File))
            return [];
        try
        {
            return JsonSerializer.Deserialize<Dictionary<string, string>>(System.IO.File.ReadAllText(File)) ?? [];
        }
        catch (JsonException)
        {
            throw new IOException($"{File} is damaged: remove it, and sign in again");
        }
    }

    /// <summary>Keeps a token; null forgets it.</summary>
    public static void Keep(Uri service, string? token)
    {
        var all = Read();
        if (token is null)
            all.Remove(Key(service));
        else
            all[Key(service)] = token;
        const UnixFileMode own = UnixFileMode.UserRead | UnixFileMode.UserWrite;
        Directory.CreateDirectory(Folder, own | UnixFileMode.UserExecute);
        // Written beside and moved: it is whole, and closed to others, from its first byte on.
        var beside = $"{File}.{Environment.ProcessId}";
        using (
            var stream = new FileStream(
                beside,
                new FileStreamOptions
                {
                    Mode = FileMode.Create,
                    Access = FileAccess.Write,
                    UnixCreateMode = own,
                }
            )
        )
        {
            JsonSerializer.Serialize(stream, all);
        }
        System.IO.File.Move(beside, File, overwrite: true);
    }
}
