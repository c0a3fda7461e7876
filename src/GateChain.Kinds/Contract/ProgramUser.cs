using System.ComponentModel;
using System.Diagnostics;
using System.Globalization;
using System.Runtime.InteropServices;

namespace GateChain.Kinds.Contract;

/// <summary>A user of the machine that programs of steps run as, instead of the service's own. Immutable.</summary>
/// <param name="Name">The user's name.</param>
/// <param name="Id">The user's number.</param>
/// <param name="Group">The number of the user's first group.</param>
/// <param name="Home">The user's home folder.</param>
/// <param name="Folder">Where files for programs are put: the service's own data is closed to them.</param>
/// <remarks>Source: setpriv(1), getent(1), lchown(2).</remarks>
public sealed partial record ProgramUser(string Name, uint Id, uint Group, string Home, string Folder)
{
    const string Switch = "/usr/bin/setpriv";

    /// <summary>The user of a name; null when the machine has none.</summary>
    /// <param name="name">The name.</param>
    /// <param name="folder">Where files for programs are put.</param>
    public static ProgramUser? Find(string name, string folder)
    {
        var (code, output) = Run("getent", "passwd", "--", name);
        return
            code == 0
            && output.TrimEnd().Split(':') is [_, _, var id, var group, _, var home, ..]
            && uint.TryParse(id, CultureInfo.InvariantCulture, out var user)
            && uint.TryParse(group, CultureInfo.InvariantCulture, out var first)
            ? new(name, user, first, home, folder)
            : null;
    }

    /// <summary>Why this process can't start programs as that user, in a sentence; null when it can.</summary>
    public string? Problem()
    {
        if (!File.Exists(Switch))
            return $"programs can't be run as {Name}: {Switch} is not there (package util-linux)";
        var (code, output) = Run(Switch, [.. Arguments, "true"]);
        if (code != 0)
        {
            return $"programs can't be run as {Name}: the service needs to be root, or to have CAP_SETUID and "
                + $"CAP_SETGID ({output.Trim()})";
        }
        var way = Path.GetDirectoryName(Folder)!;
        while (!Directory.Exists(way))
            way = Path.GetDirectoryName(way)!;
        return Run(Switch, [.. Arguments, "test", "-x", way]).Code == 0
            ? null
            : $"{Name} has no way into {way}, beside the service's data, where the scripts of steps are put";
    }

    // Nothing of the service's power goes along, and no program regains any.
    IEnumerable<string> Arguments =>
        [
            $"--reuid={Id}",
            $"--regid={Group}",
            "--init-groups",
            "--inh-caps=-all",
            "--ambient-caps=-all",
            "--no-new-privs",
            "--",
        ];

    /// <summary>What stands before the program on the line that starts it.</summary>
    public IEnumerable<string> Line => [Switch, .. Arguments];

    /// <summary>The variables that say who a program runs as.</summary>
    public IEnumerable<KeyValuePair<string, string>> Variables =>
        [new("HOME", Home), new("USER", Name), new("LOGNAME", Name)];

    /// <summary>Hands a folder that the service has just made, with all in it, over to the user.</summary>
    /// <exception cref="IOException">It can't be.</exception>
    public void Own(string folder)
    {
        // What is inside first: from then on it is the user's.
        foreach (var entry in Directory.EnumerateFileSystemEntries(folder, "*", SearchOption.AllDirectories))
            OwnOne(entry);
        OwnOne(folder);
    }

    // A link itself, never what it leads to.
    void OwnOne(string path)
    {
        if (ChangeOwner(path, Id, Group) != 0)
            throw new IOException($"{path} can't be given to {Name}: {Marshal.GetLastPInvokeErrorMessage()}");
    }

    [LibraryImport("libc", EntryPoint = "lchown", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    private static partial int ChangeOwner(string path, uint user, uint group);

    static (int Code, string Output) Run(string program, params string[] arguments)
    {
        try
        {
            using var process = Process.Start(
                new ProcessStartInfo(program, arguments) { RedirectStandardOutput = true, RedirectStandardError = true }
            )!;
            var errors = process.StandardError.ReadToEndAsync();
            var output = process.StandardOutput.ReadToEnd();
            process.WaitForExit();
            return (process.ExitCode, output + errors.Result);
        }
        catch (Win32Exception e)
        {
            return (-1, e.Message);
        }
    }
}
