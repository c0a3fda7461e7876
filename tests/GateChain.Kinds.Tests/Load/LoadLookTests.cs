using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Load.Looking;

namespace GateChain.Kinds.Tests.Load;

/// <summary>What somebody sees who looks into a load step before anything runs.</summary>
public sealed class LoadLookTests : IDisposable
{
    readonly Bench _bench = new();

    public void Dispose() => _bench.Dispose();

    LoadLook Look(string settings) =>
        LoadLook.At(ValueJson.TryParse(settings)!.Value, _bench.Context(), TestContext.Current.CancellationToken);

    [Fact]
    public void TheRowsAreThoseOfTheStepAndTheFileIsToldBeside()
    {
        _bench.Write("in/a.csv", "farm;litres\nF1;1,5\nF2;viel\n");
        _bench.Write("in/b.csv", "farm;litres\nF3;7,5\n");
        var look = Look(
            """
            {"from": {"csv": "in/*.csv"},
             "columns": {"litres": {"type": "int"}, "twice": {"value": "row.farm + row.farm"}}}
            """
        );
        // Rows of all files, as they are set; the first file for what it is.
        Assert.Equal(("in/a.csv", (string?)null), (look.What, look.Problem));
        Assert.Equal(["litres", "twice"], look.Sample!.Names);
        Assert.Equal((3, true, 3), (look.Sample.Seen, look.Sample.IsAll, look.Sample.Rejected));
        Assert.Equal("litres is not an int: 1,5", look.Sample.Rejects[0].Reason);
        Assert.Equal(["farm", "litres"], look.Found!.Header.Select(c => c.Name));
        Assert.Contains("delimiter: \";\"", look.Found.From);
        Assert.Equal(2, look.Found.Sample.Seen);
    }

    [Theory]
    [InlineData("""{"from": {}}""", null, "Say first where rows come from.")]
    [InlineData("""{"from": {"csv": "none.csv"}}""", "none.csv", "none.csv")]
    [InlineData("""{"from": {"csv": "none/*.csv"}}""", "none/*.csv", "no file is named like none/*.csv")]
    [InlineData("""{"from": {"csv": "../../etc/passwd"}}""", null, "passwd")]
    [InlineData("""{"from": {"csv": "a.csv", "what": 1}}""", null, "a.csv")]
    [InlineData("""{"from": {"csv": "a.csv", "text": {"skip": "many"}}}""", null, "skip")]
    [InlineData("""{"from": {"connection": "nobody", "table": "t"}}""", "t", "nobody")]
    public void WhatCantBeLookedAtIsTold(string settings, string? what, string words)
    {
        var look = Look(settings);
        Assert.Null(look.Sample);
        Assert.Contains(words, look.Problem);
        if (what is not null)
            Assert.Equal(what, look.What);
    }

    // What the step says may be wrong; the file is what it is.
    [Fact]
    public void AFileThatTheStepCantReadIsStillTold()
    {
        _bench.Write("a.csv", "farm,litres\nF1,1\n");
        var look = Look("""{"from": {"csv": "a.csv"}, "columns": {"liters": {}}}""");
        Assert.Null(look.Sample);
        Assert.Contains("it has “litres”", look.Problem);
        Assert.Equal("int", look.Found!.Header[1].Type);
    }

    [Fact]
    public void AQueryIsLookedAtAsFarAsItGoesWithoutItsPosition()
    {
        _bench.Connect("target", "sqlite", ("path", "db.sqlite"));
        _bench.Sql("CREATE TABLE t (n INTEGER)");
        _bench.Sql(
            "INSERT INTO t WITH RECURSIVE c(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM c WHERE x < 1500) "
                + "SELECT x FROM c"
        );
        var look = Look(
            """{"from": {"connection": "target", "table": "t", "since": {"column": "n", "keep": "k", "once": true}}}"""
        );
        Assert.True(look.Problem is null, look.Problem);
        Assert.Equal(("t", (long)LoadLook.MostOfQuery, false), (look.What, look.Sample!.Seen, look.Sample.IsAll));
        Assert.Equal(["1"], look.Sample.Rows[0]);
        Assert.Null(look.Found);
    }
}
