using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;

namespace GateChain.Core.Checking;

/// <summary>A call names a chain that is there, gives it what it takes, and does not call itself without end.</summary>
sealed class ChildChainRule : ICheckRule
{
    static readonly InputFit Inputs = new(ProblemKinds.BadInput, "the call", "inputs");

    public void Check(CheckContext context)
    {
        var (chain, workspace, problems) = context;
        var secrets = SecretParameters.Of(chain);
        foreach (var step in chain.AllSteps.Where(s => s.Call is not null))
        {
            var call = step.Call!;
            if (call.Child.Name != chain.Name)
                AddRetired(call.Child.Name, workspace?.Chains, call.Span, "the call fails", problems);
            if (call.Target is null)
            {
                if (workspace is not null)
                    CheckName(call, chain.Name, workspace, problems);
                continue;
            }
            if (workspace is not null && call.Child.Name != chain.Name && !call.Target.IsCallableFrom(workspace.Area))
            {
                problems.Add(
                    ProblemKinds.NotCallable,
                    call.Span,
                    $"“{call.Child.Name}” can't be called from here: a chain is called from its own folder and below, "
                        + $"or from the folders that it names in “callable”"
                );
            }
            Inputs.Check(call.Target, call.Inputs, context.Names.In(step.Scope), secrets, call.Span, problems);
            if (
                workspace is not null
                && ChainInterfaces.IsUndecided(step)
                && CallsBack(call.Child, new(chain.Name, null), workspace)
            )
            {
                problems.Add(
                    ProblemKinds.EndlessCall,
                    call.Span,
                    $"“{chain.Name}” calls itself here again and again: no decide step comes before that could end it",
                    "put a decide step before the call"
                );
            }
        }
    }

    /// <summary>Tells that a chain is retired, and what follows from that.</summary>
    internal static void AddRetired(
        string name,
        IReadOnlyDictionary<string, ChainInterface>? chains,
        Span span,
        string effect,
        ProblemList problems
    )
    {
        if (chains?.GetValueOrDefault(name) is not { IsRetired: true })
            return;
        problems.Add(
            ProblemKinds.RetiredChain,
            span,
            $"“{name}” is retired: {effect}",
            "bring it back, or name another chain"
        );
    }

    static void CheckName(CallRule call, string caller, WorkspaceContext workspace, ProblemList problems)
    {
        var (name, release) = call.Child;
        if (name != caller && !workspace.Chains.ContainsKey(name))
        {
            problems.Add(
                ProblemKinds.UnknownChain,
                call.Span,
                $"there is no chain “{name}” in this workspace",
                Nearest.Fix(
                    name,
                    workspace.Chains.Where(c => c.Value.IsCallableFrom(workspace.Area)).Select(c => c.Key)
                )
            );
        }
        else if (release is not null && workspace.Releases is not null)
        {
            problems.Add(
                ProblemKinds.UnknownChain,
                call.ReleaseSpan,
                $"“{name}” has no release {release}",
                "write latest, or the number of one that is there"
            );
        }
    }

    static bool CallsBack(CalledChain from, CalledChain to, WorkspaceContext workspace)
    {
        var seen = new HashSet<CalledChain>();
        var queue = new Queue<CalledChain>([from]);
        while (queue.TryDequeue(out var called))
        {
            if (called == to)
                return true;
            if (!seen.Add(called) || workspace.Find(called) is not { } chain)
                continue;
            foreach (var next in chain.Calls)
                queue.Enqueue(next);
        }
        return false;
    }
}

/// <summary>Reads off a chain what its callers have to know.</summary>
public static class ChainInterfaces
{
    /// <summary>
    /// What a chain takes and gives. Its own calls are taken to give anything, so that circles of chains have an
    /// interface too.
    /// </summary>
    public static ChainInterface Of(Chain chain)
    {
        var names = new Names(chain).In(chain.Root);
        var outputs = chain
            .Outputs.GroupBy(o => o.Name)
            .ToDictionary(
                g => g.Key,
                g => g.First().Expression.Check(names) is { Problems.Count: 0, Type: var type } ? type : CelType.Dyn
            );
        return new(
            chain.Name,
            chain.Parameters,
            outputs,
            [.. chain.AllSteps.Where(s => s.Call is not null && IsUndecided(s)).Select(s => s.Call!.Child).Distinct()]
        )
        {
            Callable = chain.Callable,
        };
    }

    /// <summary>Whether no decide step comes before a step, in its scope or in those around it.</summary>
    internal static bool IsUndecided(Step step)
    {
        for (Step? at = step; at is not null; at = at.Scope.Owner)
        {
            if (at.Scope.Steps.Any(s => s.Branches.Count > 0 && Scopes.FromHereOn(s).Contains(at)))
                return false;
        }
        return true;
    }
}
