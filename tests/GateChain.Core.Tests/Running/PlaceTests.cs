using GateChain.Core.Running;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Running;

/// <summary>Which nodes an attempt is for: the nearest word counts, and expressions see what settings see.</summary>
public sealed class PlaceTests
{
    [Theory]
    [InlineData("steps: { a: { kind: work } }", null)]
    [InlineData("steps: { a: { kind: work, place: warehouse } }", "warehouse")]
    [InlineData("place: dmz\nsteps: { a: { kind: work } }", "dmz")]
    [InlineData("place: dmz\nsteps: { a: { kind: work, place: none } }", null)]
    [InlineData("defaults: { place: dmz }\nsteps: { a: { kind: work } }", "dmz")]
    [InlineData("defaults: { place: dmz }\nsteps: { a: { kind: work, place: warehouse } }", "warehouse")]
    [InlineData(
        "params: { n: { type: int, default: 7 } }\nsteps: { a: { kind: work, place: 'zone=${params.n}' } }",
        "zone=7"
    )]
    [InlineData("steps: { a: { kind: work, place: '${string(1 / 0)}' } }", "error")]
    public void TheNearestWordCounts(string rest, string? expected)
    {
        var play = new Play($"chain: t\n{rest}", (_, _) => null).Begin();
        var step = play.State.Find("a")!;
        var place = AttemptPlaces.Of(play.State, step, DateTimeOffset.UnixEpoch, Bounds.Default);
        Assert.Equal(
            expected,
            place is { IsError: true } ? "error"
                : place is { } label ? label.AsString
                : null
        );
    }

    [Fact]
    public void ContainersHaveNoneAndWhatIsInThemHasTheDefault()
    {
        var play = new Play(
            "chain: t\nsteps:\n  g: { kind: group, defaults: { place: dmz }, steps: { a: { kind: work } } }",
            (_, _) => null
        ).Begin();
        Assert.Null(play.State.Find("g")!.Step.Place);
        Assert.Equal(
            "dmz",
            AttemptPlaces
                .Of(play.State, play.State.Find("g/a")!, DateTimeOffset.UnixEpoch, Bounds.Default)!
                .Value.AsString
        );
    }
}
