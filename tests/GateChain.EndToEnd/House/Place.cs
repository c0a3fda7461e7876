using System.Diagnostics;
using System.Reflection;

namespace GateChain.EndToEnd.House;

/// <summary>Where things are, and how programs are run.</summary>
static class Place
{
    public static string Root { get; } = FindRoot();

    /// <summary>The program, as built for the same configuration as the tests.</summary>
    public static string Program { get; } =
        Path.Combine(
            Root,
            "artifacts/bin/GateChain.Cli",
            Path.GetFileName(AppContext.BaseDirectory.TrimEnd('/')),
            "gatechain"
        );

    static string FindRoot()
    {
        var folder = Path.GetDirectoryName(Assembly.GetExecutingAssembly().Location)!;
        while (!File.Exists(Path.Combine(folder, "GateChain.slnx")))
            folder = Path.GetDirectoryName(folder)!;
        return folder;
    }

    /// <summary>Runs a program to its end.</summary>
    public static async Task<(int Exit, string Out, string Err)> RunAsync(
        string program,
        string folder,
        IReadOnlyDictionary<string, string>? environment,
        params string[] arguments
    )
    {
        var start = new ProcessStartInfo(program, arguments)
        {
            WorkingDirectory = folder,
            RedirectStandardOutput = true,
            RedirectStandardError = true,
            RedirectStandardInput = true,
        };
        foreach (var (name, value) in environment ?? new Dictionary<string, string>())
            start.Environment[name] = value;
        using var process = Process.Start(start)!;
        process.StandardInput.Close();
        var output = process.StandardOutput.ReadToEndAsync();
        var errors = process.StandardError.ReadToEndAsync();
        await process.WaitForExitAsync().WaitAsync(TimeSpan.FromSeconds(90));
        return (process.ExitCode, await output, await errors);
    }

    static readonly Lazy<Task<string>> Data = new(async () =>
    {
        var folder = Directory.CreateTempSubdirectory("gatechain-demo-").FullName;
        AppDomain.CurrentDomain.ProcessExit += (_, _) => Directory.Delete(folder, recursive: true);
        var (exit, _, err) = await RunAsync("node", Root, null, "demo/generate.mjs", folder);
        Assert.True(exit == 0, err);
        return folder;
    });

    /// <summary>Puts the demo's data into a folder.</summary>
    public static async Task CopyDemoDataAsync(string folder)
    {
        var (exit, _, err) = await RunAsync("cp", folder, null, "-r", await Data.Value + "/.", folder);
        Assert.True(exit == 0, err);
    }
}
