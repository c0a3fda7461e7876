using GateChain.Core.Chains;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Expressions;

namespace GateChain.Core.Checking.Outcomes;

/// <summary>
/// Under which outcomes of the steps each step of a scope runs, succeeds and fails, and each gate opens: a search over
/// all of them at once. Exact for outcomes and branches; the values of conditions are taken to be free, the same
/// condition at one place the same.
/// </summary>
sealed class OutcomeSearch
{
    const int Limit = 400_000;

    readonly Conditions _conditions = new(Limit);
    readonly Dictionary<(string, Step?), int> _whens = [];
    readonly Dictionary<Step, Fate> _fates = [];
    readonly Dictionary<Gate, int> _opens = [];

    /// <param name="Runs">Its gates release it.</param>
    /// <param name="Stopped">It ends neither well nor badly: a child run in it was stopped.</param>
    readonly record struct Fate(
        int Runs,
        int Succeeds,
        int Fails,
        int Skipped,
        int Stopped,
        IReadOnlyDictionary<string, int> Branches
    );

    // Nothing has failed that counts, and nothing was stopped: what holds when a scope has ended well.
    int _well = Conditions.Always;

    OutcomeSearch() { }

    /// <summary>Searches a scope without circles; null when the search grows too big.</summary>
    public static OutcomeSearch? Of(StepScope scope)
    {
        var search = new OutcomeSearch();
        try
        {
            foreach (var step in Scopes.InOrder(scope))
                search.Add(step);
            return search;
        }
        catch (Conditions.TooManyException)
        {
            return null;
        }
    }

    public bool Knows(Step step) => _fates.ContainsKey(step);

    public bool CanRun(Step step) => _fates[step].Runs != Conditions.Never;

    public bool CanOpen(Gate gate) => _opens[gate] != Conditions.Never;

    /// <summary>Whether gates can be open together.</summary>
    public bool CanAllOpen(IEnumerable<Gate> gates) =>
        gates.Select(g => _opens[g]).Aggregate(Conditions.Always, _conditions.And) != Conditions.Never;

    /// <summary>Whether a step may run without another one having succeeded.</summary>
    public bool MayRunWithout(Step step, Step other) =>
        _conditions.And(_fates[step].Runs, _conditions.Not(_fates[other].Succeeds)) != Conditions.Never;

    /// <summary>Whether a step may run without another one having failed.</summary>
    public bool MayRunWithoutFailure(Step step, Step other) =>
        _conditions.And(_fates[step].Runs, _conditions.Not(_fates[other].Fails)) != Conditions.Never;

    /// <summary>Whether the scope may end well without a step having succeeded.</summary>
    public bool MayEndWellWithout(Step other) =>
        _conditions.And(_well, _conditions.Not(_fates[other].Succeeds)) != Conditions.Never;

    /// <summary>Whether a gate's condition may be looked at without a step having succeeded.</summary>
    public bool MayBeLookedAtWithout(Gate gate, Step other)
    {
        var fate = _fates[gate.From];
        var admitted = Admitted(gate, fate);
        var looked =
            gate.Match == GateMatch.Both ? admitted : _conditions.And(_conditions.Not(admitted), Settled(fate));
        return _conditions.And(looked, _conditions.Not(_fates[other].Succeeds)) != Conditions.Never;
    }

    void Add(Step step)
    {
        var opens = step.Incoming.Select(g => _opens[g]).ToList();
        var released =
            opens.Count == 0
                ? Conditions.Always
                : step.Join.Mode switch
                {
                    JoinMode.All => opens.Aggregate(_conditions.And),
                    JoinMode.Count => _conditions.AtLeast(Math.Min(step.Join.Needed, opens.Count + 1), opens),
                    _ => opens.Aggregate(_conditions.Or),
                };
        var fate = FateOf(step, released);
        _fates[step] = fate;
        _well = _conditions.And(
            _well,
            _conditions.Not(
                step.IfFails == Chains.FailureRule.Absorb ? fate.Stopped : _conditions.Or(fate.Fails, fate.Stopped)
            )
        );
        foreach (var gate in step.Outgoing)
            _opens[gate] = Opens(gate, fate);
    }

    Fate FateOf(Step step, int released)
    {
        var branches = new Dictionary<string, int>();
        if (step.Kind.Name == ControlKinds.Stop)
        {
            return new(
                released,
                Conditions.Never,
                Conditions.Never,
                _conditions.Not(released),
                Conditions.Never,
                branches
            );
        }
        if (step.Disabled)
            return new(released, released, Conditions.Never, _conditions.Not(released), Conditions.Never, branches);
        // A guard may pass it over, or a person who decides about it, and whatever works can fail.
        var mayBePassedOver =
            step.IfFails == Chains.FailureRule.Pause
            || step.OnCrash == CrashRule.Pause
            || step.Guard?.Rules.Any(r => r.Verdict == Verdict.Skip || r.Hold?.Then == Verdict.Skip) == true;
        var passedOver = mayBePassedOver ? _conditions.And(released, _conditions.Variable()) : Conditions.Never;
        // Somebody may stop a child run; then its call ends without opening any gate, and so does what holds the call.
        var stopped = MayBeStopped(step)
            ? _conditions.And(_conditions.And(released, _conditions.Not(passedOver)), _conditions.Variable())
            : Conditions.Never;
        var works = _conditions.And(_conditions.And(released, _conditions.Not(passedOver)), _conditions.Not(stopped));
        var well = _conditions.Variable();
        var succeeds = _conditions.And(works, well);
        var left = succeeds;
        foreach (var branch in step.Branches)
        {
            var taken = branch.When is null ? left : _conditions.And(left, _conditions.Variable());
            branches[branch.Name] = taken;
            left = _conditions.And(left, _conditions.Not(taken));
        }
        // A decide that takes no branch fails; a person who settles it by hand may leave the branch out.
        if (branches.Count > 0 && step.IfFails != Chains.FailureRule.Pause)
            succeeds = _conditions.And(succeeds, _conditions.Not(left));
        return new(
            released,
            succeeds,
            _conditions.And(works, _conditions.Not(succeeds)),
            _conditions.Or(_conditions.Not(released), passedOver),
            stopped,
            branches
        );
    }

    static bool MayBeStopped(Step step) =>
        step.Call is { Wait: true } || step.Inner?.AllSteps.Any(s => s.Call is { Wait: true }) == true;

    int Settled(Fate fate) => _conditions.Or(_conditions.Or(fate.Succeeds, fate.Fails), fate.Skipped);

    int Admitted(Gate gate, Fate fate)
    {
        var admitted = Conditions.Never;
        if (gate.On.HasFlag(GateOutcomes.Success))
            admitted = _conditions.Or(admitted, fate.Succeeds);
        if (gate.On.HasFlag(GateOutcomes.Failure))
            admitted = _conditions.Or(admitted, fate.Fails);
        if (gate.On.HasFlag(GateOutcomes.Skipped))
            admitted = _conditions.Or(admitted, fate.Skipped);
        return admitted;
    }

    int Opens(Gate gate, Fate fate)
    {
        var admitted = Admitted(gate, fate);
        if (gate.IsElse)
        {
            return gate
                .From.Outgoing.Where(g => g.When is not null)
                .Aggregate(admitted, (open, g) => _conditions.And(open, _conditions.Not(_opens[g])));
        }
        if (gate.When is null)
            return admitted;
        var holds = gate.Branch is { } branch ? fate.Branches.GetValueOrDefault(branch, Conditions.Never) : When(gate);
        return gate.Match == GateMatch.Both
            ? _conditions.And(admitted, holds)
            : _conditions.And(Settled(fate), _conditions.Or(admitted, holds));
    }

    // What a condition gives is anybody's guess, but the same for two gates of one source.
    int When(Gate gate)
    {
        if (gate.When!.Expression.Tree is LiteralExpr { Value: { Kind: Values.ValueKind.Bool } constant })
            return constant.AsBool ? Conditions.Always : Conditions.Never;
        var key = (gate.When.Expression.Text, gate.From);
        return _whens.TryGetValue(key, out var known) ? known : _whens[key] = _conditions.Variable();
    }
}
