using GateChain.Core.Checking;
using GateChain.Core.Designing;

namespace GateChain.Core.Tests.Chains;

/// <summary>For a step's name that is wrong only steps are proposed that can have run by then.</summary>
public class StepSuggestionTests
{
    const string Chain =
        "chain: t\nsteps:\n  load: { kind: work }\n  last: { kind: work, set: { text: '${steps.NAME.n}' } }\n"
        + "gates: [ { from: load, to: last } ]";

    [Theory]
    [InlineData("lod", "load")]
    [InlineData("lasst", null)]
    public void TheStepItselfIsNotProposed(string name, string? proposed)
    {
        var text = Chain.Replace("NAME", name, StringComparison.Ordinal);
        var (chain, problems) = new ChainCheck(Play.Kinds).Check("t.chain.yaml", text);
        var problem = Assert.Single(problems, p => p.Code == "GC1202");
        Assert.Equal($"there is no “{name}” in steps", problem.Message);
        Assert.Equal(proposed, problem.Edit?.Text);
        var looked = new ExpressionService(chain!).At(new("last", StepPlace.Setting))!.Look($"steps.{name}.n");
        Assert.Equal(proposed, Assert.Single(looked.Problems).Fix?.Replacement);
    }
}
