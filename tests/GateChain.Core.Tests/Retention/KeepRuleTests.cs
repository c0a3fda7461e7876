using GateChain.Core.Identity;
using GateChain.Core.Retention;

namespace GateChain.Core.Tests.Retention;

/// <summary>What is said about how long runs are kept.</summary>
public sealed class KeepRuleTests
{
    [Theory]
    [InlineData(90, 10, null, null)]
    [InlineData(null, 0, 1, null)]
    [InlineData(null, 0, null, null)]
    [InlineData(36_500, 1_000_000, 1_000_000, null)]
    [InlineData(0, 0, null, "days is 1 to 36,500")]
    [InlineData(36_501, 0, null, "days is 1 to 36,500")]
    [InlineData(1, -1, null, "at-least is 0 to 1,000,000")]
    [InlineData(1, 1_000_001, null, "at-least is 0 to 1,000,000")]
    [InlineData(1, 0, 0, "at-most is 1 to 1,000,000")]
    [InlineData(1, 11, 10, "at-most is less than at-least: 10 and 11")]
    public void ARuleHasBounds(int? days, int least, int? most, string? refusal) =>
        Assert.Equal(refusal, new KeepRule(days, least, most).Refusal);

    [Theory]
    [InlineData(null, 0, null, "everything is kept")]
    [InlineData(null, 5, null, "everything is kept")]
    [InlineData(1, 0, null, "kept for 1 day")]
    [InlineData(400, 30, 10_000, "kept for 400 days, the newest 30 in any case, never more than 10,000")]
    public void ARuleIsASentence(int? days, int least, int? most, string sentence) =>
        Assert.Equal(sentence, new KeepRule(days, least, most).ToString());

    [Theory]
    [InlineData("milk", "dairy/north", "chain:milk")]
    [InlineData("cream", "dairy/north", "folder:dairy/north")]
    [InlineData("cream", "dairy/south", "folder:dairy")]
    [InlineData("cream", "", null)]
    [InlineData("cream", "dairyland", null)]
    public void TheNearestRuleCounts(string chain, string area, string? place)
    {
        var rules = new KeepRules(
            new Dictionary<KeepPlace, KeepRule>
            {
                [KeepPlace.OfChain("milk")] = new(1),
                [KeepPlace.OfFolder(new("dairy"))] = new(2),
                [KeepPlace.OfFolder(new("dairy/north"))] = new(3),
            }
        );
        Assert.Equal(place, rules.Of(chain, new(area))?.Place.ToString());
    }

    [Theory]
    [InlineData("chain:milk", true)]
    [InlineData("folder:", true)]
    [InlineData("folder:a/b", true)]
    [InlineData("folder:../b", false)]
    [InlineData("chain:", false)]
    [InlineData("milk", false)]
    [InlineData("", false)]
    public void PlacesAreReadAsTheyAreWritten(string text, bool isPlace) =>
        Assert.Equal(isPlace ? text : null, KeepPlace.Read(text)?.ToString());
}
