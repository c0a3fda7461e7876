using System.Collections.Concurrent;
using GateChain.Core.Chains;
using GateChain.Core.Running;
using GateChain.Core.Running.State;
using GateChain.Core.Values;
using GateChain.Engine.Logs;
using GateChain.Engine.Workspaces;
using GateChain.Kinds.Contract;

namespace GateChain.Engine.Runs;

/// <summary>The attempts of one run that are running.</summary>
sealed class AttemptSet(RunState state, RunServices services, Action<RunInput> post)
{
    readonly ConcurrentDictionary<string, Attempt> _working = new(concurrencyLevel: 1, capacity: 3);

    /// <summary>The files beside the chain that a step may read: there before its work begins.</summary>
    sealed class StepFiles(string? release, RunServices services)
    {
        IReadOnlyDictionary<string, byte[]>? _files;

        public byte[]? Find(string name) => _files?.GetValueOrDefault(name);

        public async ValueTask LoadAsync()
        {
            if (release is not null)
                _files = await services.Attachments(release).ConfigureAwait(false);
        }
    }

    StepFiles FilesOf() => new(ReleaseContent.HasAttachments(state.Chain) ? state.Release : null, services);

    sealed class Attempt(AttemptSet set, IStepKind kind, AttemptContext context, StepFiles files, Value inputs)
        : IThreadPoolWorkItem
    {
        public StepFiles Files => files;
        public IStepKind Kind => kind;
        public AttemptContext Context => context;
        public Value Inputs => inputs;
        public CancellationTokenSource Cancel { get; } = new();

        public void Execute() => _ = set.WorkAsync(this);
    }

    public bool IsEmpty => _working.IsEmpty;

    TaskCompletionSource? _whenEmpty;

    /// <summary>Ends when nothing is running any more.</summary>
    public async Task EndedAsync()
    {
        while (!IsEmpty)
        {
            var ended = new TaskCompletionSource(TaskCreationOptions.RunContinuationsAsynchronously);
            ended = Interlocked.CompareExchange(ref _whenEmpty, ended, null) ?? ended;
            // The last one may have ended before it could see that somebody waits.
            if (IsEmpty)
                return;
            await ended.Task.ConfigureAwait(false);
        }
    }

    /// <summary>Starts the work of an attempt whose start is on disk.</summary>
    public void Start(StepState step)
    {
        var files = FilesOf();
        var attempt = new Attempt(
            this,
            services.KindOf(step.Step.Kind.Name),
            ContextOf(step, step.Attempt, files),
            files,
            step.Inputs
        );
        _working[step.Path] = attempt;
        ThreadPool.UnsafeQueueUserWorkItem(attempt, preferLocal: true);
    }

    // How long until what could not be ended is tried again.
    static readonly TimeSpan SweepPause = TimeSpan.FromSeconds(5);

    /// <summary>
    /// Ends what a lost attempt had started outside; only when that is done is the attempt told as lost, and anything
    /// of its step begins again.
    /// </summary>
    /// <param name="step">The step whose attempt was in flight when its owner ended.</param>
    /// <param name="quietFor">How long it is left alone: its node may still be ending it.</param>
    public void Sweep(StepState step, TimeSpan quietFor)
    {
        var files = FilesOf();
        var (kind, context, path, attempt) = (
            services.KindOf(step.Step.Kind.Name),
            ContextOf(step, step.Attempt, files),
            step.Path,
            step.Attempt
        );
        _ = Task.Run(async () =>
        {
            if (quietFor > TimeSpan.Zero)
                await Task.Delay(quietFor, services.Time).ConfigureAwait(false);
            while (!_closed)
            {
                try
                {
                    await files.LoadAsync().ConfigureAwait(false);
                    await kind.SweepAsync(context).ConfigureAwait(false);
                    break;
                }
                catch (Exception e)
                {
                    post(
                        new LeftoverInput(
                            services.Time.GetUtcNow(),
                            path,
                            attempt,
                            services.Secrets.Mask.Text(e.Message)
                        )
                    );
                    await Task.Delay(SweepPause, services.Time).ConfigureAwait(false);
                }
            }
            (context.Log as IDisposable)?.Dispose();
            if (!_closed)
                post(new LostInput(services.Time.GetUtcNow(), path, attempt));
        });
    }

    volatile bool _closed;

    AttemptContext ContextOf(StepState step, int attempt, StepFiles files)
    {
        var options = services.Options;
        var voice = new AttemptOutput(services, state.Id, step.Path, step.Record!.Number);
        return new()
        {
            Run = state.Id,
            Step = step.Path,
            Attempt = attempt,
            WorkKey = state.WorkKey(step),
            WorkFolder = options.WorkFolder,
            Folders = options.Folders,
            NamesSecret = NamesSecret(step.Step, state.Chain),
            PassedVariables = options.PassedVariables,
            ProgramsAs = options.ProgramsAs,
            Node = options.Node,
            Progress = voice,
            StepsFolder = options.Steps,
            Log = voice,
            Connections = services.Connections(state.Area, state.IsTry),
            Secrets = services.Secrets.In(state.Area),
            Attachment = files.Find,
            Time = services.Time,
        };
    }

    // Only what stands literally in the file may name a secret, and a parameter that was given as one.
    static Func<string, string, bool> NamesSecret(Step step, Chain chain) =>
        (setting, entry) =>
            step.Settings[setting] is MapSetting map
            && (map[entry]?.Constant is not null || SecretParameters.Is(map[entry], chain));

    async Task WorkAsync(Attempt attempt)
    {
        AttemptResult result;
        try
        {
            await attempt.Files.LoadAsync().ConfigureAwait(false);
            result = Forbidden(attempt)
                ?? await attempt
                    .Kind.RunAsync(attempt.Inputs, attempt.Context, attempt.Cancel.Token)
                    .ConfigureAwait(false);
        }
        catch (Exception e)
        {
            attempt.Context.Log.Note($"internal error: {e}");
            services.Keeper.Broken(state.Id, e);
            result = AttemptResult.Fail(
                "internal",
                $"the kind “{attempt.Kind.Description.Name}” broke: {e.Message}",
                "This is a mistake of Gate Chain, not of the chain. The step's log has more."
            );
        }
        result = services.Secrets.Mask.Of(result);
        if (result.Error is { } error)
            attempt.Context.Log.Note($"failed: {error.Message}");
        (attempt.Context.Log as IDisposable)?.Dispose();
        _working.TryRemove(KeyValuePair.Create(attempt.Context.Step, attempt));
        if (_whenEmpty is not null && IsEmpty)
            Interlocked.Exchange(ref _whenEmpty, null)?.TrySetResult();
        // Ended for the service's own end: nothing is journaled, the next start finds the attempt in flight and does it
        // again.
        if (services.Ending.IsCancellationRequested && attempt.Cancel.IsCancellationRequested && !result.Succeeded)
            return;
        post(new AttemptEndedInput(services.Time.GetUtcNow(), attempt.Context.Step, attempt.Context.Attempt, result));
    }

    // What an admin lets steps of this area use: looked at when the step begins, whatever it was when it was released.
    AttemptResult? Forbidden(Attempt attempt)
    {
        var kind = attempt.Kind.Description.Name;
        var isPlugin = services.Options.Plugins.Contains(kind);
        // Most steps are neither.
        if (kind != "command" && !isPlugin)
            return null;
        var settings = attempt.Inputs.Kind == ValueKind.Map ? attempt.Inputs.AsMap : null;
        var variables = settings?.Find("env") is { Kind: ValueKind.Map, AsMap: { } env }
            ? env.Entries.Select(e => ValueText.ToPlainString(e.Key))
            : [];
        var program = settings?.Find("run") is { Kind: ValueKind.List, AsList: [{ Kind: ValueKind.String } first, ..] }
            ? first.AsString
            : null;
        return services.Options.Rules(state.Area).Refusal(kind, isPlugin, program, variables) is { } refusal
            ? AttemptResult.Fail("not-allowed", refusal)
            : null;
    }

    public void Cancel(string step)
    {
        if (_working.TryGetValue(step, out var attempt))
            attempt.Cancel.Cancel();
    }

    public void CancelAll()
    {
        _closed = true;
        foreach (var attempt in _working.Values)
            attempt.Cancel.Cancel();
    }

    /// <summary>
    /// What an attempt has to say. Opens its log only when there is something. Locks itself: nobody else sees more of
    /// it than its interfaces.
    /// </summary>
    sealed class AttemptOutput(RunServices services, long run, string step, int number)
        : IAttemptLog,
            IProgress<AttemptProgress>,
            IDisposable
    {
        AttemptLog? _log;
        bool _closed,
            _reported;

        public void Out(string line) => Write("out", line);

        public void Err(string line) => Write("err", line);

        public void Note(string line) => Write("note", line);

        public void Report(AttemptProgress value)
        {
            _reported = true;
            services.Progress.Tell(run, step, value);
        }

        void Write(string source, string line)
        {
            lock (this)
            {
                if (_closed)
                    return;
                try
                {
                    (_log ??= services.Logs.Open(run, number)).Write(source, services.Secrets.Mask.Text(line));
                }
                catch (IOException)
                {
                    // A log that can't be written must not fail the work.
                }
            }
        }

        public void Dispose()
        {
            lock (this)
            {
                _closed = true;
                _log?.Dispose();
            }
            if (_reported)
                services.Progress.Forget(run, step);
        }
    }
}
