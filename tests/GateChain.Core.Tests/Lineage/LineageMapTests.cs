using System.Text.RegularExpressions;
using CsCheck;
using GateChain.Core.Datasets;
using GateChain.Core.Lineage;

namespace GateChain.Core.Tests.Lineage;

/// <summary>Which data feed which.</summary>
public class LineageMapTests
{
    static Dataset File(string name) => new(DataForm.File, null, name);

    static Dataset Table(string name) => new(DataForm.Table, "warehouse", name);

    static (string, IReadOnlyList<StepData>) Chain(string name, params (string Step, DataUse Use)[] steps) =>
        (name, [.. steps.Select(s => new StepData(s.Step, s.Use))]);

    static DataUse Reads(Dataset data) => new(DataDirection.Reads, data);

    static DataUse Writes(Dataset data) => new(DataDirection.Writes, data);

    // The dairy: pickups are fetched, loaded, summed up and reported; prices stand beside.
    static readonly LineageMap Dairy = new([
        Chain(
            "intake",
            ("fetch", Reads(new(DataForm.File, "depot", "out/*.csv"))),
            ("fetch", Writes(File("inbox/${params.day}/*.csv"))),
            ("load", Reads(File("inbox/2026-11-22/north.csv"))),
            ("load", Writes(Table("pickups")))
        ),
        Chain("close", ("sum", Reads(Table("public.\"Pickups\""))), ("sum", Writes(Table("totals")))),
        Chain("sums", ("sum", Reads(Table("PICKUPS"))), ("sum", Writes(Table("day_totals")))),
        Chain("report", ("mail", Reads(Table("day_totals"))), ("write", Writes(File("report.txt")))),
        Chain(
            "around",
            ("a", Reads(Table("x"))),
            ("a", Writes(Table("y"))),
            ("b", Reads(Table("y"))),
            ("b", Writes(Table("x")))
        ),
    ]);

    static string Told(IEnumerable<DataFlow> flows) =>
        string.Join("; ", flows.Select(f => $"{f.Steps} {f.From} > {f.Through.Chain}/{f.Through.Step} > {f.To}"));

    [Fact]
    public void DataAreFollowedBackThroughPatternsAndNames() =>
        Assert.Equal(
            "1 warehouse:PICKUPS > sums/sum > warehouse:day_totals; "
                + "2 inbox/2026-11-22/north.csv > intake/load > warehouse:PICKUPS; "
                + "3 depot:out/*.csv > intake/fetch > inbox/2026-11-22/north.csv",
            Told(Dairy.Before(Table("day_totals")))
        );

    [Fact]
    public void WhatIsBehindWhenAFileDoesNotCome()
    {
        var after = Dairy.After(new(DataForm.File, "depot", "out/north.csv"));
        Assert.Equal(
            "1 depot:out/north.csv > intake/fetch > inbox/${params.day}/*.csv; "
                + "2 inbox/${params.day}/*.csv > intake/load > warehouse:pickups; "
                + "3 warehouse:pickups > sums/sum > warehouse:day_totals",
            Told(after)
        );
        // Who only reads makes nothing of it, and is told as a reader.
        Assert.Equal(new DataStep("report", "mail"), Assert.Single(Dairy.Of(Table("day_totals")).Readers));
    }

    [Fact]
    public void ACircleComesToAnEnd() =>
        Assert.Equal(
            "1 warehouse:y > around/b > warehouse:x; 2 warehouse:x > around/a > warehouse:y",
            Told(Dairy.Before(Table("x")))
        );

    [Theory]
    [InlineData("warehouse:day_totals", "warehouse:day_totals")]
    [InlineData("day_totals", "warehouse:day_totals")]
    [InlineData("*_totals", "warehouse:day_totals")]
    [InlineData("warehouse:*totals", "warehouse:day_totals, warehouse:totals")]
    [InlineData("inbox/2026-11-23/south.csv", "inbox/${params.day}/*.csv")]
    [InlineData("nothing", "")]
    public void DataAreFoundByNameOrPattern(string text, string found) =>
        Assert.Equal(found, string.Join(", ", Dairy.Find(text)));

    // What is computed may be anything, and is taken for nothing then.
    [Theory]
    [InlineData("${item}", "in/a.csv", false)]
    [InlineData("${profile.inbox}/*.csv", "in/a.csv", false)]
    [InlineData("${profile.inbox}/farms-*.csv", "in/2026/farms-1.csv", true)]
    [InlineData("${profile.inbox}/farms-${params.day}.csv", "out/farms-*.csv", true)]
    [InlineData("archive/${item}/x.csv", "archive/a/b/x.csv", true)]
    [InlineData("archive/a-${item}/x.csv", "archive/a-1/b/x.csv", false)]
    [InlineData("in/*.csv", "in/deep/a.csv", false)]
    [InlineData("in/**/*.csv", "in/deep/er/a.csv", true)]
    [InlineData("${profile.inbox}/farms.csv", "archive/${item}/${steps.x.newest}", false)]
    [InlineData("${item}", "${item}", true)]
    public void NamesThatAreComputedMeetByWhatTheyTell(string a, string b, bool meet) =>
        Assert.Equal((meet, meet), (File(a).Meets(File(b)), File(b).Meets(File(a))));

    [Fact]
    public void TablesHaveSchemasOfTheirOwn()
    {
        Assert.False(Table("a.t").Meets(Table("b.t")));
        Assert.False(Table("t").Meets(new(DataForm.Table, "other", "t")));
        Assert.False(File("t").Meets(Table("t")));
        Assert.False(File("a.csv").Meets(File("A.csv")));
    }

    // Against what a regular expression finds in all short words.
    [Fact]
    public void PatternsMeetWhereThereIsANameForBoth()
    {
        var words = (from n in Enumerable.Range(0, 7) from w in Words(n) select w).ToList();
        Gen.String[Gen.Char["ab/*?"], 1, 3]
            .Select(Gen.String[Gen.Char["ab/*?"], 1, 3])
            .Sample((a, b) => File(a).Meets(File(b)) == words.Any(w => Fits(a, w) && Fits(b, w)), iter: 500);

        static IEnumerable<string> Words(int length) =>
            length == 0 ? [""] : Words(length - 1).SelectMany(w => (string[])[w + "a", w + "b", w + "/"]);

        static bool Fits(string pattern, string word) =>
            pattern == word || Regex.IsMatch(word, $"^{Written(pattern)}$");

        // Two stars that are a part of a path stand for several parts.
        static string Written(string pattern) =>
            Regex
                .Replace(pattern, @"(?<=^|/)\*\*+(?=/|$)", "#")
                .Replace("*", "[^/]*")
                .Replace("?", "[^/]")
                .Replace("#", ".*");
    }

    [Fact]
    public void LongNamesTakeNoTime()
    {
        var stars = string.Concat(Enumerable.Repeat("*a", 499));
        Assert.False(File(stars + "b").Meets(File(stars + "c")));
        Assert.False(File(new string('?', 100_000)).Meets(File("a")));
    }
}
