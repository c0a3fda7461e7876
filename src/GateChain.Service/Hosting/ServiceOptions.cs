using GateChain.Core.Values;
using GateChain.Engine.Basics;

namespace GateChain.Service.Hosting;

/// <summary>How the service is started.</summary>
public sealed record ServiceOptions
{
    /// <summary>
    /// The address it listens at; a port of 0 takes a free one. Default http://127.0.0.1:8480. Only this machine's own
    /// addresses are taken.
    /// </summary>
    public string Listen { get; init; } = "http://127.0.0.1:8480";

    /// <summary>The service's own data.</summary>
    public required string DataFolder { get; init; }

    /// <summary>Where relative paths of chains start from.</summary>
    public required string WorkFolder { get; init; }

    /// <summary>
    /// The address that people open the console at, for links in messages; where it listens when null.
    /// </summary>
    public string? Home { get; init; }

    /// <summary>Folders beside the work folder in which steps may read and write files.</summary>
    public IReadOnlyList<string> Allow { get; init; } = [];

    /// <summary>
    /// Names of environment variables that programs of steps get from the service, beside the usual ones.
    /// </summary>
    public IReadOnlyList<string> Pass { get; init; } = [];

    /// <summary>How big values, runs and decisions may be.</summary>
    public Bounds Bounds { get; init; } = Bounds.Default;

    /// <summary>The folder of kinds of one's own; none when null.</summary>
    public string? Plugins { get; init; }

    /// <summary>How many calls a second one hook takes; more are answered with 429. Default 5,000.</summary>
    public int HookBurst { get; init; } = 5000;

    /// <summary>Whether log lines go to the standard error output too.</summary>
    public bool LogToConsole { get; init; } = true;

    /// <summary>What is wrong with the options, all at once; empty when nothing is.</summary>
    public IReadOnlyList<string> Check()
    {
        var wrong = new List<string>();
        if (!Uri.TryCreate(Listen, UriKind.Absolute, out var uri) || uri.Scheme != "http")
        {
            wrong.Add($"“{Listen}” is not an address such as http://127.0.0.1:8480");
        }
        else if (!LoopbackGuard.IsLoopback(uri.Host))
        {
            wrong.Add(
                $"“{uri.Host}” is not an address of this machine's loopback; there is no sign-in yet, "
                    + "so the service is not opened to the network"
            );
        }
        if (!Directory.Exists(WorkFolder))
            wrong.Add($"the work folder {WorkFolder} is not there");
        foreach (var folder in Allow.Where(f => !Directory.Exists(f)))
            wrong.Add($"the allowed folder {folder} is not there");
        if (Plugins is not null && !Directory.Exists(Plugins))
            wrong.Add($"the plug-in folder {Plugins} is not there");
        if (Home is not null && !Uri.TryCreate(Home, UriKind.Absolute, out _))
            wrong.Add($"“{Home}” is not an address such as https://gatechain.larkmoor.example");
        return wrong;
    }

    internal EngineOptions ToEngine() =>
        new(Path.GetFullPath(DataFolder), Path.GetFullPath(WorkFolder))
        {
            Folders = new([Path.GetFullPath(WorkFolder), .. Allow.Select(Path.GetFullPath)])
            {
                Forbidden = Path.GetFullPath(DataFolder),
            },
            Bounds = Bounds,
            PassedVariables = [.. EngineOptions.UsualVariables, .. Pass],
        };
}
