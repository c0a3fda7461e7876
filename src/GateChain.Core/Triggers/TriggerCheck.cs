using GateChain.Core.Chains;
using GateChain.Core.Checking;
using GateChain.Core.Expressions;
using GateChain.Core.Identity;
using GateChain.Core.Problems;
using GateChain.Core.Values;

namespace GateChain.Core.Triggers;

/// <summary>What stands around a trigger.</summary>
/// <param name="Chains">What the chains take and give, by name.</param>
/// <param name="Profiles">The profiles of the folder that a chain lies in, each a map, by the profile's name.</param>
/// <param name="Connections">The types of the connections that the trigger's folder sees, by name.</param>
/// <param name="IsSecretSet">Whether a secret of a name is set for a folder; null where secrets are not known.</param>
public sealed record TriggerContext(
    IReadOnlyDictionary<string, ChainInterface> Chains,
    Func<string, IReadOnlyDictionary<string, Value>> Profiles,
    IReadOnlyDictionary<string, string> Connections,
    Func<string, Area, bool>? IsSecretSet = null
);

/// <summary>Checks triggers against the chains that they start. Pure. Thread-safe.</summary>
public static class TriggerCheck
{
    static readonly InputFit Inputs = new(ProblemKinds.BadTriggerInput, "the trigger", "params");

    // A trigger has no parameters of its own to hand on.
    static readonly IReadOnlySet<string> NoSecrets = new HashSet<string>();

    /// <summary>Adds what is wrong with one trigger.</summary>
    public static void Check(TriggerDefinition trigger, TriggerContext beside, ProblemList problems)
    {
        var profiles = beside.Profiles(trigger.Chain);
        var scope = Scope(trigger, profiles.Values);
        if (beside.Chains.TryGetValue(trigger.Chain, out var chain))
        {
            if (!chain.IsStartedFrom(trigger.Area))
            {
                problems.Add(
                    ProblemKinds.NotCallable,
                    trigger.ChainSpan,
                    $"“{trigger.Chain}” can't be started from here: a trigger starts chains of its own folder and "
                        + $"below, and those that may be called from it"
                );
            }
            Inputs.Check(chain, trigger.Params, scope, NoSecrets, trigger.Span, problems);
            ChildChainRule.AddRetired(
                trigger.Chain,
                beside.Chains,
                trigger.ChainSpan,
                "fires of this trigger are refused",
                problems
            );
        }
        else
        {
            problems.Add(
                ProblemKinds.UnknownChain,
                trigger.ChainSpan,
                $"there is no chain “{trigger.Chain}” in this workspace",
                Nearest.Fix(trigger.Chain, beside.Chains.Keys)
            );
        }
        if (trigger.Profile is { } profile && !profiles.ContainsKey(profile))
        {
            problems.Add(
                ProblemKinds.WrongValue,
                trigger.Span,
                $"there is no profile “{profile}” where “{trigger.Chain}” lies",
                Nearest.Fix(profile, profiles.Keys)
            );
        }
        foreach (var given in trigger.Params)
            CheckNames(given.ExpressionAt, scope, problems);
        if (trigger.When is { } when)
            CheckCondition(when, scope, problems);
        CheckSource(trigger, beside, problems);
    }

    static void CheckSource(TriggerDefinition trigger, TriggerContext beside, ProblemList problems)
    {
        switch (trigger.Source)
        {
            case ArrivalSource { Connection: { } name }:
                ConnectionRule.Check(
                    [new(name, trigger.Span, ["sftp", "ftp", "s3", "azure"])],
                    beside.Connections,
                    problems
                );
                break;
            case HookSource hook:
                foreach (
                    var name in hook
                        .Token.Concat(hook.Sign)
                        .Where(n => beside.IsSecretSet?.Invoke(n, trigger.Area) == false)
                )
                {
                    problems.Add(
                        ProblemKinds.SecretUnset,
                        trigger.Span,
                        $"{SecretNames.Unset(name)}",
                        SecretNames.HowToSet(name)
                    );
                }
                break;
            case WatchSource watch:
                ConnectionRule.Check(watch.Probes.SelectMany(ConnectionNames.In), beside.Connections, problems);
                CheckCondition(
                    watch.Condition,
                    CelType.Object(
                        new Dictionary<string, CelType>
                        {
                            ["probes"] = Names.ProbeTypes(watch.Probes),
                            ["profile"] = Names.ProfileType(beside.Profiles(trigger.Chain).Values),
                        }
                    ),
                    problems
                );
                break;
            case OutcomeSource outcome when outcome.IsAbout(trigger.Chain):
                problems.Add(
                    ProblemKinds.TriggerCircle,
                    trigger.Span,
                    $"“{trigger.Name}” starts “{trigger.Chain}”, and is about its outcomes too",
                    $"leave it out: \"!{trigger.Chain}\""
                );
                break;
        }
    }

    /// <summary>Adds a hint for triggers whose outcomes start each other.</summary>
    /// <param name="all">All triggers.</param>
    /// <param name="trigger">The one that is told of.</param>
    /// <param name="problems">Gets the hint.</param>
    public static void CheckCircle(
        IReadOnlyCollection<TriggerDefinition> all,
        TriggerDefinition trigger,
        ProblemList problems
    )
    {
        if (trigger.Source is not OutcomeSource)
            return;
        var seen = new HashSet<string>();
        var queue = new Queue<(string Chain, string Way)>([(trigger.Chain, trigger.Chain)]);
        while (queue.TryDequeue(out var at))
        {
            foreach (
                var next in all.Where(t => t.Name != trigger.Name && t.Source is OutcomeSource o && o.IsAbout(at.Chain))
            )
            {
                var way = $"{at.Way} → {next.Chain}";
                if (trigger.Source is OutcomeSource own && own.IsAbout(next.Chain) && next.Chain != trigger.Chain)
                {
                    problems.Add(
                        ProblemKinds.TriggerCircle,
                        trigger.Span,
                        $"outcomes start each other in a circle: {way} → {trigger.Chain}",
                        "leave one of them out with \"!name\""
                    );
                    return;
                }
                if (seen.Add(next.Chain))
                    queue.Enqueue((next.Chain, way));
            }
        }
    }

    /// <summary>What the expressions of a trigger can read.</summary>
    public static CelType Scope(TriggerDefinition trigger, IEnumerable<Value> profiles) =>
        CelType.Object(
            new Dictionary<string, CelType>
            {
                ["event"] = EventTypes.Of(trigger.Source),
                ["profile"] = Names.ProfileType(profiles),
                ["kept"] = CelType.Object(new Dictionary<string, CelType>(), open: true),
            }
        );

    static void CheckCondition(SourceExpression at, CelType scope, ProblemList problems)
    {
        var type = CheckNames(at, scope, problems);
        if (type is not null && !CelType.Bool.Accepts(type))
            problems.Add(ProblemKinds.WrongType, at.All, $"“when” is a bool, and this gives {Article.Of(type)}");
    }

    static CelType? CheckNames(SourceExpression at, CelType scope, ProblemList problems)
    {
        var (type, mistakes) = at.Expression.Check(scope);
        foreach (var mistake in mistakes)
            problems.Add(ProblemKinds.UnknownName, at.Place(mistake.Span), mistake.Said, mistake.Fix);
        return mistakes.Count == 0 ? type : null;
    }
}
