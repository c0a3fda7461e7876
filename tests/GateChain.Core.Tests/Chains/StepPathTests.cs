using System.Text.Json;
using GateChain.Core.Chains;

namespace GateChain.Core.Tests.Chains;

/// <summary>Paths of steps mean the same here and in the console: both are held to one file of cases.</summary>
public class StepPathTests
{
    sealed record Case(string Path, string Scope, string Last, string Address, string Owner, int? Index);

    [Fact]
    public void PathsAreTakenApartAsTheConsoleDoes()
    {
        var file = Path.Combine(AppContext.BaseDirectory, "cases", "step-paths.json");
        foreach (var expected in JsonSerializer.Deserialize<Case[]>(File.ReadAllText(file), JsonSerializerOptions.Web)!)
        {
            var path = new StepPath(expected.Path);
            Assert.Equal(
                expected,
                new(path.Text, path.Scope.Text, path.Last, path.Address.Text, path.Owner.Text, path.Index)
            );
            if (path.Text.Length > 0 && path.Scope.Text.Length > 0)
                Assert.Equal(path, path.Scope.Then(path.Last));
        }
    }

    [Theory]
    [InlineData("depots[2]/load", "depots", true, null)]
    [InlineData("depots[2]/load", "depots[2]", true, "load")]
    [InlineData("depots/load", "depots", true, "load")]
    [InlineData("depots2/load", "depots", false, null)]
    [InlineData("depots", "depots", false, null)]
    [InlineData("depots", "", true, "depots")]
    [InlineData("", "", false, "")]
    [InlineData("a/b/c", "a", true, "b/c")]
    public void WhatLiesWithinIsFoundBehind(string path, string outer, bool isWithin, string? behind)
    {
        Assert.Equal(isWithin, new StepPath(path).IsWithin(new(outer)));
        Assert.Equal(behind, new StepPath(path).Behind(new(outer))?.Text);
    }

    [Fact]
    public void PartsSayWhatTheyAre()
    {
        Assert.Equal(
            [
                new("@failure[1]", "failure", true, 1),
                new("each[0]", "each", false, 0),
                new("mail", "mail", false, null),
            ],
            new StepPath("@failure[1]/each[0]/mail").Parts
        );
        Assert.Empty(new StepPath("").Parts);
        Assert.Equal(["a/b", "a"], new StepPath("a/b/c").Outer.Select(p => p.Text));
    }
}
