using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Rehearsing;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Testing;

/// <summary>Something that is not as it was expected.</summary>
/// <param name="Span">Where it is expected, in the file of tests.</param>
/// <param name="Message">What was expected, and what came, in a sentence.</param>
public sealed record Difference(Span Span, string Message);

/// <summary>What came of a case.</summary>
/// <param name="Case">The case.</param>
/// <param name="Differences">What is not as expected; none for one that passed.</param>
/// <param name="Rehearsal">How it went.</param>
public sealed record CaseResult(TestCase Case, IReadOnlyList<Difference> Differences, Rehearsal Rehearsal)
{
    public bool Passed => Differences.Count == 0;
}

/// <summary>Plays a case on the run machine, and compares. Pure.</summary>
/// <param name="chain">The chain.</param>
/// <param name="chains">Gives the chains that are called; null for one that is not there.</param>
/// <param name="profileOf">Gives the values of a profile of the chain; of the usual one for null.</param>
/// <param name="profileOfCalled">See <see cref="RehearsalAssumptions.ProfileOfCalled"/>.</param>
public sealed class CaseRun(
    Chain chain,
    Func<CalledChain, Chain?> chains,
    Func<string?, Value> profileOf,
    Func<string?, Func<string, string, Value, Value>?> profileOfCalled
)
{
    const int Shown = 300;

    /// <summary>Plays one case.</summary>
    public CaseResult Play(TestCase test, CancellationToken cancel = default)
    {
        var rehearsal = Rehearsal.Play(chain, Wish(test), chains, cancel);
        return new(test, [.. Differences(test, rehearsal)], rehearsal);
    }

    RehearsalAssumptions Wish(TestCase test) =>
        new()
        {
            At = test.At,
            Params = test.Params,
            Vars = test.Vars,
            Profile = profileOf(test.Profile),
            ProfileOfCalled = profileOfCalled(test.Profile),
            Attempts =
            [
                .. test
                    .Steps.Where(s => s.Attempts.Count > 0)
                    // What is said of one instance counts before what is said of all.
                    .OrderByDescending(s => s.Step.Text.Contains('[', StringComparison.Ordinal))
                    .Select(s => new RehearsedAttempts(
                        s.Step,
                        [.. s.Attempts.Select(a => new RehearsedResult(a.Gives, a.Fails))],
                        s.Plays
                    )),
            ],
            Give =
            [
                .. from step in test.Steps
                from probe in step.Probes
                from value in probe.Value
                select new RehearsedValue(step.Step, probe.Key, value.Key, value.Value),
            ],
        };

    static IEnumerable<Difference> Differences(TestCase test, Rehearsal rehearsal)
    {
        var (run, expect) = (rehearsal.State, test.Expect);
        if (rehearsal.IsCut)
        {
            yield return new(test.Span, "the run does not come to an end");
            yield break;
        }
        var word = run.IsPaused ? "paused" : run.Outcome?.Word() ?? "running";
        var why = run.Error is { } error ? $": {error.Message}" : "";
        if (expect.Outcome is { } outcome && outcome.Word != word)
            yield return new(outcome.Span, $"the run is expected {outcome.Word}, and it is {word}{why}");
        if (expect.Error is { } text && run.Error?.Message.Contains(text.Text, StringComparison.Ordinal) != true)
        {
            yield return new(
                text.Span,
                $"the run's error is expected to have “{text.Text}” in it, and "
                    + (run.Error is null ? "there is none" : $"it is “{run.Error.Message}”")
            );
        }
        var steps = rehearsal.AllSteps.ToList();
        foreach (var different in Steps(expect, steps).Concat(Order(expect, rehearsal)).Concat(Gates(expect, run)))
            yield return different;
        foreach (var (name, value, span) in expect.Outputs)
        {
            if (Other($"the output “{name}”", value, run.Outputs.AsMap.Find(name)) is { } told)
                yield return new(span, told);
        }
        foreach (var (name, value, span) in expect.Vars)
        {
            if (Other($"the variable “{name}”", value, run.Root.Variables.GetValueOrDefault(name)) is { } told)
                yield return new(span, told);
        }
        foreach (var different in Settings(expect, steps).Concat(Holds(test, run)))
            yield return different;
    }

    static string? Other(string what, Value expected, Value? found) =>
        found is { } value
            ? value.Equals(expected)
                ? null
                : $"{what} is expected {ValueText.Show(expected, Shown)}, and it is {ValueText.Show(value, Shown)}"
            : $"{what} is expected {ValueText.Show(expected, Shown)}, and there is none";

    static IEnumerable<Difference> Steps(Expectations expect, List<(string Path, StepState Step)> steps)
    {
        foreach (var (pattern, word, span) in expect.Steps)
        {
            var found = steps.Where(s => pattern.Matches(s.Path)).ToList();
            if (found.Count == 0)
            {
                if (word != NotReached)
                    yield return new(span, $"“{pattern}” is expected {word}, and the run never comes to it");
                continue;
            }
            foreach (var (path, step) in found.Where(s => WordOf(s.Step) != word))
            {
                yield return new(
                    span,
                    $"“{path}” is expected {word}, and it is {WordOf(step)}"
                        + $"{(step.Error is { } error ? $": {error.Message}" : "")}"
                );
            }
        }
        foreach (var (pattern, count, span) in expect.Attempts)
        {
            var found = steps.Where(s => pattern.Matches(s.Path)).ToList();
            if (found.Count == 0 && count > 0)
                yield return new(span, $"“{pattern}” is expected to take {count} attempts, and is never come to");
            foreach (var (path, step) in found.Where(s => s.Step.Attempt != count))
                yield return new(span, $"“{path}” is expected to take {count} attempts, and took {step.Attempt}");
        }
    }

    /// <summary>The word for a step that a run never came to.</summary>
    public const string NotReached = "not reached";

    static string WordOf(StepState step) => step.Phase == StepPhase.Pending ? NotReached : step.Word;

    static IEnumerable<Difference> Order(Expectations expect, Rehearsal rehearsal)
    {
        if (expect.Order.Count < 2)
            yield break;
        var settled = rehearsal
            .Journal.SelectMany(d => d.Events)
            .OfType<StepSettled>()
            .Select((s, i) => (s.Step, At: i))
            .ToList();
        var (before, last) = (-1, "");
        foreach (var (pattern, span) in expect.Order)
        {
            var at = settled.Where(s => pattern.Matches(s.Step)).Select(s => s.At).DefaultIfEmpty(-1).Max();
            if (at < 0)
                yield return new(span, $"“{pattern}” is expected to settle after “{last}”, and never does");
            else if (at < before)
                yield return new(span, $"“{pattern}” is expected to settle after “{last}”, and settles before it");
            (before, last) = (Math.Max(before, at), pattern.Text);
        }
    }

    static IEnumerable<Difference> Gates(Expectations expect, RunState run)
    {
        foreach (var gate in expect.Gates)
        {
            var decided = run
                .AllSteps.SelectMany(s => s.InnerScopes)
                .Prepend(run.Root)
                .Where(s => gate.Scope.Length == 0 ? s == run.Root : new StepPattern(gate.Scope).Matches(s.Path))
                .SelectMany(s => s.Scope.Gates.Where(gate.IsOf).Select(g => s.Gates[g.Index].Phase))
                .Where(p => p != GatePhase.Undecided)
                .Select(p => p == GatePhase.Open)
                .ToList();
            var name = $"the gate from “{gate.From}” to “{gate.To}”";
            if (decided.Count == 0)
                yield return new(gate.Span, $"{name} is expected {Is(gate.IsOpen)}, and is never decided");
            else if (decided.Contains(true) != gate.IsOpen)
                yield return new(gate.Span, $"{name} is expected {Is(gate.IsOpen)}, and it is {Is(!gate.IsOpen)}");
        }
    }

    static string Is(bool open) => open ? "open" : "shut";

    static IEnumerable<Difference> Settings(Expectations expect, List<(string Path, StepState Step)> steps)
    {
        foreach (var setting in expect.Settings)
        {
            var found = steps.Where(s => setting.Step.Matches(s.Path) && s.Step.Attempt > 0).ToList();
            if (found.Count == 0)
                yield return new(setting.Span, $"“{setting.Step}” is never begun, so it has no “{setting.Setting}”");
            foreach (var (path, step) in found)
            {
                var value = At(step.Inputs, setting.Setting);
                var holds = setting.Contains
                    ? value is { Kind: ValueKind.String } text
                        && text.AsString.Contains(setting.Value.AsString, StringComparison.Ordinal)
                    : value is { } whole && whole.Equals(setting.Value);
                if (holds)
                    continue;
                yield return new(
                    setting.Span,
                    $"“{setting.Setting}” of “{path}” is expected "
                        + $"{(setting.Contains ? "to have in it " : "")}{ValueText.Show(setting.Value, Shown)}, and "
                        + (value is { } other ? $"it is {ValueText.Show(other, Shown)}" : "there is none")
                );
            }
        }
    }

    static Value? At(Value settings, string place)
    {
        Value? at = settings;
        foreach (var name in place.Split('.'))
            at = at is { Kind: ValueKind.Map } map ? map.AsMap.Find(name) : null;
        return at;
    }

    static IEnumerable<Difference> Holds(TestCase test, RunState run)
    {
        var names = PastRunBindings.Of(run, "", null, run.Ended ?? test.At)!;
        foreach (var expression in test.Expect.Holds)
        {
            var value = expression.Expression.Evaluate(names);
            if (value is { Kind: ValueKind.Bool, AsBool: true })
                continue;
            yield return new(
                expression.All,
                $"{expression.Expression.Text} is expected to be true, and it "
                    + (
                        value.IsError
                            ? $"can't be computed: {value.AsError.Message}"
                            : $"is {ValueText.Show(value, Shown)}"
                    )
            );
        }
    }
}
