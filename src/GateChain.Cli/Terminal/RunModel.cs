using GateChain.Client;

namespace GateChain.Cli.Terminal;

/// <summary>A run that is kept up to date with the changes the service sends.</summary>
sealed class RunModel(RunDetail run)
{
    readonly OrderedDictionary<string, StepStatus> _steps = new(run.Steps.Select(s => KeyValuePair.Create(s.Path, s)));
    readonly OrderedDictionary<string, IterationStatus> _iterations = new(
        run.Iterations.Select(i => KeyValuePair.Create(i.Path, i))
    );
    readonly OrderedDictionary<int, AttemptInfo> _attempts = new(
        run.Attempts.Select(a => KeyValuePair.Create(a.Number, a))
    );

    public RunDetail Run { get; private set; } = run;

    public void Apply(RunPatch patch)
    {
        foreach (var step in patch.Steps)
            _steps[step.Path] = step;
        foreach (var iteration in patch.Iterations)
            _iterations[iteration.Path] = iteration;
        foreach (var attempt in patch.Attempts)
            _attempts[attempt.Number] = attempt;
        Run = Run with
        {
            Seq = patch.Seq,
            State = patch.State,
            Leg = patch.Leg,
            Ended = patch.Ended,
            Error = patch.Error,
            Status = patch.Status,
            Vars = patch.Vars ?? Run.Vars,
            Outputs = patch.Outputs ?? Run.Outputs,
            Steps = [.. _steps.Values],
            Iterations = [.. _iterations.Values],
            Attempts = [.. _attempts.Values],
            Warnings = patch.Warnings,
            Failures = patch.Failures,
            Absorbed = patch.Absorbed,
        };
    }
}
