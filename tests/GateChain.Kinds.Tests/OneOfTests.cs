using GateChain.Core.Checking;

namespace GateChain.Kinds.Tests;

/// <summary>Settings of which exactly one has to be there are checked before anything runs.</summary>
public class OneOfTests
{
    [Theory]
    [InlineData(
        "kind: load, set: { from: {}, into: { csv: t.csv } }",
        "“from” needs exactly one of csv, fixed, jsonl, json, xml, parquet, xlsx, connection, and has none"
    )]
    [InlineData(
        "kind: load, set: { from: { csv: t.csv }, into: { csv: t.csv, parquet: t.parquet } }",
        "“into” needs exactly one of csv, jsonl, parquet, connection, and has csv and parquet"
    )]
    [InlineData("kind: load, set: { from: { csv: t.csv }, into: { jsonl: t.jsonl } }", null)]
    public void ExactlyOneIsThere(string step, string? expected)
    {
        var (_, problems) = new ChainCheck(KindDescriptions.Catalogue).Check(
            "t",
            $"chain: t\nsteps:\n  s: {{ {step} }}"
        );
        Assert.Equal(expected, problems.SingleOrDefault(p => p.Code == "GC1005")?.Message.ToString());
    }
}
