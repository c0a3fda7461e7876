using GateChain.Core.Designing;

namespace GateChain.Cli.Terminal;

/// <summary>What two versions of a chain say differently, line by line.</summary>
static class ComparisonLines
{
    public static void Write(IReadOnlyList<PartChange> changes, TextWriter to)
    {
        if (changes.Count == 0)
            to.WriteLine("both say the same");
        foreach (var change in changes)
        {
            to.WriteLine(
                $"{Sign(change.Change)} {change.Part}"
                    + $"{(change.Address.Length == 0 ? "" : $" {change.Address}")}: "
                    + $"{change.Change}{(change.Was is { } was ? $", was {was}" : "")}"
            );
            // Of what came or went as a whole, the settings are told only where they tell something.
            foreach (var setting in change.Change == "changed" ? change.Settings : [])
                to.WriteLine($"    {setting.Setting}: {Text(setting.Before)} → {Text(setting.After)}");
        }
    }

    static char Sign(string change) =>
        change switch
        {
            "added" => '+',
            "removed" => '-',
            _ => '~',
        };

    static string Text(string? value) => value is null ? "(not there)" : value.ReplaceLineEndings(" ⏎ ");
}
