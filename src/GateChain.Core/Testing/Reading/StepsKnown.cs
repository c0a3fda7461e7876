using GateChain.Core.Chains;
using GateChain.Core.Chains.Source;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;

namespace GateChain.Core.Testing.Reading;

/// <summary>The steps of a chain by address; those of chains that it calls behind that of the call.</summary>
sealed class StepsKnown
{
    const int Deepest = 8;

    readonly Dictionary<string, Step> _steps = [];

    public StepsKnown(Chain chain, Func<CalledChain, Chain?> chains) => Add(chain, chains, "", 0);

    void Add(Chain chain, Func<CalledChain, Chain?> chains, string above, int depth)
    {
        foreach (var step in chain.AllSteps)
        {
            _steps.TryAdd(above + step.Address, step);
            if (depth < Deepest && step.Call is { } call && chains(call.Child) is { } child)
                Add(child, chains, $"{above}{step.Address}/", depth + 1);
        }
    }

    /// <summary>The step of a path, with or without numbers of iterations; null with a problem when there is
    /// none.</summary>
    public Step? Find(ScalarNode path, ProblemList problems)
    {
        var address = new StepPath(path.Text).Address.Text;
        if (_steps.GetValueOrDefault(address) is { } step)
            return step;
        problems.Add(
            ProblemKinds.UnknownInTest,
            path.Span,
            $"there is no step “{path.Text}”",
            Nearest.Fix(address, _steps.Keys)
        );
        return null;
    }
}
