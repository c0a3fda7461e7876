using GateChain.Core.Chains.Kinds;
using GateChain.Core.Expressions;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Running;

/// <summary>What a step that holds still waits for, in words.</summary>
public static class HoldDescription
{
    static readonly System.Buffers.SearchValues<char> NameLetters = System.Buffers.SearchValues.Create(
        "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789_"
    );

    /// <summary>
    /// What the guard of a held step looks at, and what it saw there: <c>inbox/*.csv (count 0)</c>. Empty without
    /// probes.
    /// </summary>
    public static string WaitsFor(StepState step)
    {
        if (step.Hold is not { } hold || step.Step.Guard is not { } guard)
            return "";
        return string.Join(
            ", ",
            guard.Probes.Select(p =>
                Of(p.Name, hold.Asked.AsMap.Find(p.Name), hold.Probes.AsMap.Find(p.Name), hold.Latest?.Parts ?? [])
            )
        );
    }

    // What it was told tells best where it looks: a path, an address, a connection.
    static string Of(string name, Value? asked, Value? seen, IReadOnlyList<PartValue> parts)
    {
        var where = asked is { Kind: ValueKind.Map } settings
            ? string.Join(
                " ",
                settings
                    .AsMap.Entries.Where(e => e.Value.Kind is ValueKind.String or ValueKind.Int)
                    .Select(e => ValueText.ToPlainString(e.Value))
                    .Take(3)
            )
            : "";
        if (where.Length == 0)
            where = name;
        where = Shorten.Text(where, 60);
        if (seen is not { Kind: ValueKind.Map } found)
            return where;
        if (found.AsMap.Find("ok") is { Kind: ValueKind.Bool, AsBool: false })
            return $"{where} ({ValueText.ToPlainString(found.AsMap.Find("error") ?? Value.String("could not look"))})";
        // What its rules ask for; where they ask for nothing by name, the first numbers.
        var prefix = $"probes.{name}.";
        var told = parts
            .Where(p =>
                p.Value is not null
                && p.Text.StartsWith(prefix, StringComparison.Ordinal)
                && p.Text.AsSpan(prefix.Length).IndexOfAnyExcept(NameLetters) < 0
            )
            .Select(p => $"{p.Text[prefix.Length..]} {p.Value!.Trim('"')}")
            .Distinct()
            .Take(3)
            .ToList();
        if (told.Count == 0)
        {
            told =
            [
                .. found
                    .AsMap.Entries.Where(e =>
                        e.Value.Kind is ValueKind.Int or ValueKind.Double
                        && e.Key.AsString is not ("size" or "unstable")
                    )
                    .Take(2)
                    .Select(e => $"{e.Key.AsString} {ValueText.ToPlainString(e.Value)}"),
            ];
        }
        return told.Count == 0 ? where : $"{where} ({string.Join(", ", told)})";
    }

    /// <summary>
    /// How many further looks that count its guard allows; null where a time bounds the hold, or it does not hold.
    /// </summary>
    public static int? LooksLeft(StepState step) =>
        step is { Phase: StepPhase.Held, Hold: { Latest: { } latest } hold }
        && step.Step.Guard!.Rules[latest.Rule].Hold is { Longest: null, Times: var times }
            ? Math.Max(0, (times ?? 0) + 1 - hold.ByRule.GetValueOrDefault(latest.Rule).Times)
            : null;

    /// <summary>Until when a <c>wait</c> step lets time pass; null for others.</summary>
    public static string? WaitsUntil(StepState step) =>
        step is { Phase: StepPhase.Running, Due: { } due }
        && step.Step.Kind.Name == ControlKinds.Wait
        && !step.WaitsForRuns
            ? $"waits until {due:yyyy-MM-dd HH:mm:ss} UTC"
            : null;
}
