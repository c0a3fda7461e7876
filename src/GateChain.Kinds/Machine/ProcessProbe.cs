using System.Globalization;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Expressions;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Machine;

/// <summary>Which programs a <c>process</c> probe looks for.</summary>
public sealed record ProcessProbeSettings
{
    [Setting("The program's name, without its folder.", Required = true)]
    public string Name { get; init; } = "";

    [Setting("A text that its command line holds; any when absent.")]
    public string? Holds { get; init; }
}

/// <summary>Sees which programs run on this machine.</summary>
/// <remarks>Source: proc(5).</remarks>
public sealed class ProcessProbe : Probe<ProcessProbeSettings>
{
    public override KindDescription Description => Described;

    /// <summary>What the core knows of it; there without an instance.</summary>
    public static KindDescription Described { get; } =
        new(
            "process",
            "Sees which programs run on the service's machine.",
            SettingsShape.Of<ProcessProbeSettings>(),
            ProbeResult.Outputs(("count", CelType.Int), ("ids", CelType.List(CelType.Int)))
        )
        {
            Sample = ProbeResult.Sample(("count", Value.Int(0)), ("ids", Value.EmptyList)),
        };

    protected override ValueTask<Value> LookAsync(
        ProcessProbeSettings settings,
        ProbeContext context,
        CancellationToken cancel
    )
    {
        var found = new List<int>();
        foreach (var folder in Directory.EnumerateDirectories("/proc"))
        {
            if (
                int.TryParse(Path.GetFileName(folder), CultureInfo.InvariantCulture, out var id)
                && Fits(folder, settings)
            )
            {
                found.Add(id);
            }
        }
        return new(
            ProbeResult.Seen(
                ("count", Value.Int(found.Count)),
                ("ids", Value.List([.. found.Order().Select(i => Value.Int(i))]))
            )
        );
    }

    static bool Fits(string folder, ProcessProbeSettings settings)
    {
        try
        {
            // Parts of the command line end with a zero; a program that has ended without being fetched has none.
            var line = File.ReadAllText(Path.Combine(folder, "cmdline"))
                .Split('\0', StringSplitOptions.RemoveEmptyEntries);
            return line.Length > 0
                && (
                    Path.GetFileName(line[0]) == settings.Name
                    || File.ReadAllText(Path.Combine(folder, "comm")).TrimEnd() == settings.Name
                )
                && (
                    settings.Holds is null || string.Join(' ', line).Contains(settings.Holds, StringComparison.Ordinal)
                );
        }
        // It has ended meanwhile, or is somebody else's.
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return false;
        }
    }
}
