using GateChain.Core.Chains;
using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Core.Running.State;
using GateChain.Core.Values;
using GateChain.Engine.Logs;
using GateChain.Engine.Workspaces;
using GateChain.Kinds.Contract;

namespace GateChain.Engine.Runs;

/// <summary>What an attempt is to do, wherever it is done.</summary>
/// <param name="Run">The run.</param>
/// <param name="Step">The step's path in it.</param>
/// <param name="Address">The step's address in its chain.</param>
/// <param name="Attempt">From 1 in each leg.</param>
/// <param name="Number">Its number among all attempts of the run: names its log.</param>
/// <param name="Kind">What does it.</param>
/// <param name="Release">The content that the run follows.</param>
/// <param name="Area">The folder that the chain lay in when the run began.</param>
/// <param name="IsTry">Whether the run tries a draft.</param>
/// <param name="WorkKey">Names the piece of work.</param>
/// <param name="Inputs">The settings with their expressions computed; no secret is in them.</param>
/// <param name="Profile">The profile of the run; null for none.</param>
/// <param name="Trace">What it shows of its trace to whom it calls.</param>
sealed record AttemptOrder(
    long Run,
    string Step,
    string Address,
    int Attempt,
    int Number,
    string Kind,
    string Release,
    string Area,
    bool IsTry,
    WorkKey WorkKey,
    Value Inputs,
    string? Profile = null,
    string? Trace = null
);

/// <summary>
/// The work of one attempt on this machine. Used by one caller at a time; disposed of when it is over.
/// </summary>
sealed class AttemptWork : IDisposable
{
    readonly AttemptOrder _order;
    readonly RunServices _services;
    readonly IStepKind _kind;
    readonly AttemptContext _context;
    readonly AttemptOutput _output;
    readonly StepFiles _files;

    public AttemptWork(AttemptOrder order, Chain chain, RunServices services)
    {
        (_order, _services, _kind) = (order, services, services.KindOf(order.Kind));
        _files = new(ReleaseContent.HasAttachments(chain) ? order.Release : null, services);
        _output = new(services, order.Run, order.Step, order.Number);
        var (options, area) = (services.Options, new Area(order.Area));
        _context = new()
        {
            Run = order.Run,
            Step = order.Step,
            Attempt = order.Attempt,
            WorkKey = order.WorkKey,
            WorkFolder = options.WorkFolder,
            Folders = options.Folders,
            NamesSecret = NamesSecret(chain, order.Address),
            PassedVariables = options.PassedVariables,
            ProgramsAs = options.ProgramsAs,
            Node = options.Node,
            Trace = order.Trace,
            Progress = _output,
            StepsFolder = options.Steps,
            Log = _output,
            Connections = services.Connections(area, order.IsTry),
            Secrets = services.Secrets.In(area),
            Attachment = _files.Find,
            Position = name => services.Positions.Find(chain.Name, order.Profile, name),
            Time = services.Time,
        };
    }

    // Only what stands literally in the file may name a secret, and a parameter that was given as one.
    static Func<string, string, bool> NamesSecret(Chain chain, string address)
    {
        Step? step = null;
        return (setting, entry) =>
            (step ??= chain.AllSteps.First(s => s.Address == address)).Settings[setting] is MapSetting map
            && (map[entry]?.Constant is not null || SecretParameters.Is(map[entry], chain));
    }

    /// <summary>Where it says what there is to say.</summary>
    public IAttemptLog Log => _output;

    /// <summary>Does it; gives what came of it, never an exception.</summary>
    public async Task<AttemptResult> RunAsync(CancellationToken cancel)
    {
        AttemptResult result;
        var began = _services.Time.GetTimestamp();
        try
        {
            await _files.LoadAsync().ConfigureAwait(false);
            result = Forbidden() ?? await _kind.RunAsync(_order.Inputs, _context, cancel).ConfigureAwait(false);
        }
        catch (Exception e)
        {
            _output.Note($"internal error: {e}");
            _services.Keeper.Broken(_order.Run, e, _order.Step);
            result = AttemptResult.Fail(
                "internal",
                $"the kind “{_kind.Description.Name}” broke: {e.Message}",
                "This is a mistake of Gate Chain, not of the chain. The step's log has more."
            );
        }
        _services.Meter.Attempt(_kind.Description.Name, result.Succeeded, _services.Time.GetElapsedTime(began));
        result = _services.Secrets.Mask.Of(result);
        if (result.Error is { } error)
            _output.Note($"failed: {error.Message}");
        return result;
    }

    /// <summary>Ends what a lost attempt had started outside.</summary>
    /// <exception cref="StepFailedException">It can't be ended.</exception>
    public async Task SweepAsync()
    {
        await _files.LoadAsync().ConfigureAwait(false);
        await _kind.SweepAsync(_context).ConfigureAwait(false);
    }

    // What an admin lets steps of this area use: looked at when the step begins, whatever it was when it was released.
    AttemptResult? Forbidden()
    {
        var kind = _kind.Description.Name;
        var isPlugin = _services.Options.Plugins.Contains(kind);
        // Most steps are neither.
        if (kind != "command" && !isPlugin)
            return null;
        var settings = _order.Inputs.Kind == ValueKind.Map ? _order.Inputs.AsMap : null;
        var variables = settings?.Find("env") is { Kind: ValueKind.Map, AsMap: { } env }
            ? env.Entries.Select(e => ValueText.ToPlainString(e.Key))
            : [];
        var program = settings?.Find("run") is { Kind: ValueKind.List, AsList: [{ Kind: ValueKind.String } first, ..] }
            ? first.AsString
            : null;
        return _services.Options.Rules(new(_order.Area)).Refusal(kind, isPlugin, program, variables) is { } refusal
            ? AttemptResult.Fail("not-allowed", refusal)
            : null;
    }

    public void Dispose() => _output.Dispose();

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
