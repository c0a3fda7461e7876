using GateChain.Client;
using GateChain.Core.Chains;
using Spectre.Console;

namespace GateChain.Cli.Terminal;

/// <summary>Follows a run until it ends: as a live view on a terminal, as lines elsewhere.</summary>
static class Follower
{
    /// <summary>The run as it ended for good, or paused.</summary>
    /// <param name="client">The service.</param>
    /// <param name="id">The run.</param>
    /// <param name="quiet">Whether nothing is written.</param>
    /// <param name="cancel">Ends the watching; the run continues.</param>
    /// <param name="stayPaused">Whether a pause is waited through.</param>
    public static async Task<RunDetail> FollowAsync(
        GateChainClient client,
        long id,
        bool quiet,
        CancellationToken cancel,
        bool stayPaused = false
    )
    {
        RunModel? model = null;
        async Task WatchAsync(Action<RunDetail, RunPatch?> shown)
        {
            await foreach (var (whole, change) in client.FollowAsync(id, cancel))
            {
                if (whole is not null)
                    model = new(whole);
                else
                    model!.Apply(change!);
                shown(model!.Run, change);
                // One that will resume by itself has not ended for whoever follows it.
                if (model.Run is { Ended: not null, Status.ResumeAt: null })
                    return;
                if (
                    !stayPaused
                    && model.Run.State == "paused"
                    && !model.Run.Steps.Any(s =>
                        s.State == "running"
                        && s.Child is null
                        && !model.Run.Steps.Any(i => new StepPath(i.Path).IsWithin(new(s.Path)))
                    )
                )
                {
                    return;
                }
            }
            throw new GateChainException(
                0,
                $"the connection to the service was lost; run {id} continues without it",
                $"Watch it again with: gatechain show {id} --follow",
                []
            );
        }

        if (quiet)
            await WatchAsync((_, _) => { });
        else if (AnsiConsole.Profile.Capabilities.Ansi && !Console.IsOutputRedirected)
            await LiveAsync(WatchAsync, cancel);
        else
            await WatchAsync(new LineWriter().Write);
        if (!quiet)
            Ending.Write(model!.Run);
        return model!.Run;
    }

    static Task LiveAsync(Func<Action<RunDetail, RunPatch?>, Task> watch, CancellationToken cancel) =>
        AnsiConsole
            .Live(new Text("…"))
            .AutoClear(false)
            .Overflow(VerticalOverflow.Crop)
            .StartAsync(async view =>
            {
                RunDetail? latest = null;
                var drawn = new Lock();
                void Draw()
                {
                    lock (drawn)
                    {
                        if (latest is { } run)
                        {
                            view.UpdateTarget(
                                RunPicture.Of(run, DateTimeOffset.UtcNow, Math.Max(5, AnsiConsole.Profile.Height - 4))
                            );
                            view.Refresh();
                        }
                    }
                }
                var watching = watch((run, _) => latest = run);
                while (await Task.WhenAny(watching, Task.Delay(100, cancel)) != watching)
                    Draw();
                await watching;
                Draw();
            });

    // Of those that begin at once the outer ones come first, of those that end at once the inner ones.
    static int Depth(StepStatus step) => new StepPath(step.Path).Outer.Count();

    /// <summary>Writes a line for each step whose state has changed.</summary>
    sealed class LineWriter
    {
        readonly Dictionary<string, (string State, int Attempt, int Leg)> _told = [];
        string _state = "";

        public void Write(RunDetail run, RunPatch? change)
        {
            foreach (
                var step in (change?.Steps ?? run.Steps)
                    .OrderBy(s => s.Ended ?? s.Started ?? run.Started)
                    .ThenBy(s => s.Ended is null ? Depth(s) : -Depth(s))
            )
            {
                var now = (step.State, step.Attempt, step.Leg);
                if (
                    _told.TryGetValue(step.Path, out var before)
                        ? before == now
                        : step.State == "pending" || step.Leg < run.Leg
                )
                {
                    continue;
                }
                _told[step.Path] = now;
                if (step.State == "pending")
                    continue;
                var took =
                    step.Ended is null || step.Started is null ? "" : $" after {Words.Took(step.Started, step.Ended)}";
                var doing = step.State is "running" ? step.Message ?? "" : Words.Doing(step);
                Console.WriteLine(
                    $"{step.Ended ?? step.Hold?.Since ?? step.Started ?? DateTimeOffset.UtcNow:HH:mm:ss.fff}"
                        + $"  {States.Mark(step.State)} {step.State, -9} {step.Path}{took}"
                        + $"{(doing.Length > 0 ? $": {Words.Plain(doing)}" : "")}"
                );
            }
            if (_state == run.State)
                return;
            _state = run.State;
            if (run.Ended is null && run.State is "queued")
                Ending.Unended(run);
            if (run is { Ended: not null, Status.ResumeAt: { } again })
            {
                Console.WriteLine(
                    $"run {run.Id} {run.State}{(run.Error is { } why ? $": {Words.Plain(why)}" : "")}; "
                        + $"it resumes automatically at {Words.At(again)}"
                );
            }
        }
    }
}
