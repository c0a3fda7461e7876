using System.Text;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Load;
using GateChain.Kinds.Load.Looking;

namespace GateChain.Kinds.Tests.Load;

/// <summary>What a look finds in files, and that a load with what it found takes them.</summary>
public sealed class FileLookTests : IDisposable
{
    readonly Bench _bench = new();

    public void Dispose() => _bench.Dispose();

    FileLook Look(string name, string text, string? form = null, string encoding = "utf-8")
    {
        Encoding.RegisterProvider(CodePagesEncodingProvider.Instance);
        File.WriteAllBytes(_bench[name], Encoding.GetEncoding(encoding).GetBytes(text.Replace("|", "\n")));
        return FileLook.At(name, _bench[name], form, TestContext.Current.CancellationToken);
    }

    static string Lines(string text) => text.Replace("\n", "; ");

    [Theory]
    [InlineData(
        "in.csv",
        "utf-8",
        "farm;day;litres;cell|F1;02.03.2026;1.234,5;120|F2;13.03.2026;12,25;-|F3;;7,0;88",
        "csv: in.csv; delimiter: \";\"; text: { decimal: \",\", thousands: ., empty: [\"-\"] }",
        "farm: {}; day: { type: date, format: dd.MM.yyyy }; litres: { type: decimal }; cell: { type: int }"
    )]
    [InlineData(
        "in.csv",
        "windows-1252",
        "name,n|Käse,1|Öl,2",
        "csv: in.csv; delimiter: \",\"; text: { encoding: windows-1252 }",
        "name: {}; n: { type: int }"
    )]
    [InlineData(
        "in.csv",
        "utf-8",
        "1\t2026-03-02T05:00:00Z\t007|2\t2026-03-02T06:00:00Z\t012",
        "csv: in.csv; delimiter: tab; text: { header: false }",
        "column1: { type: int }; column2: { type: timestamp }; column3: {}"
    )]
    [InlineData(
        "in.txt",
        "utf-8",
        "F001 Hill Farm    12|F002 Brook       107|F003 Lower Mead    9",
        "fixed: in.txt; widths: { column1: 5, column2: 12, column3: 3 }",
        "column1: {}; column2: {}; column3: { type: int }"
    )]
    [InlineData(
        "in.csv",
        "windows-1252",
        "Abholschein Westdepot|HF-01;02.03.2026;1.234,50;Käse|HF-02;02.03.2026;-;Milch|HF-03;3.3.2026;12,5;Milch",
        "csv: in.csv; delimiter: \";\"; text: { encoding: windows-1252, skip: 1, header: false, decimal: \",\", "
            + "thousands: ., empty: [\"-\"] }",
        "column1: {}; column2: { type: date, format: d.M.yyyy }; column3: { type: decimal }; column4: {}"
    )]
    [InlineData(
        "in.json",
        "utf-8",
        "{\"made\": \"x\", \"data\": {\"items\": [{\"id\": 1, \"ok\": true}, {\"id\": 2, \"ok\": false}]}}",
        "json: in.json; at: /data/items",
        "id: { type: int }; ok: { type: bool }"
    )]
    [InlineData("in.jsonl", "utf-8", "{\"id\": 1.5}|{\"id\": 2}", "jsonl: in.jsonl", "id: { type: decimal }")]
    [InlineData(
        "in.xml",
        "utf-8",
        "<farms><made>x</made><farm id='1'><name>A</name></farm><farm id='2'><name>B</name></farm></farms>",
        "xml: in.xml; row: farm",
        "\"@id\": { type: int }; name: {}"
    )]
    public void WhatIsFoundIsHowItIsLoaded(string name, string encoding, string text, string from, string columns)
    {
        var look = Look(name, text, encoding: encoding);
        Assert.Equal((from, columns), (Lines(look.From), Lines(look.Columns)));
        Assert.Equal(0, look.Sample.Rejected);
        Assert.True(look.Sample.IsAll);
        Assert.Equal(look.Sample.Seen, look.Sample.Rows.Count);
        Assert.Equal(look.Header.Count, look.Sample.Rows[0].Count);
    }

    [Fact]
    public void WhatWouldBeRejectedIsTold()
    {
        var look = Look("in.csv", "id,n|1,2|3|4,\"5\"x|6,7");
        Assert.Equal(
            ["3: the line has only 1 fields", "4: something follows a quote that closes a field"],
            look.Sample.Rejects.Select(r => $"{r.Line}: {r.Reason}")
        );
        Assert.Equal((4, 2), (look.Sample.Seen, look.Sample.Rejected));
    }

    // One in a hundred that is wrong is a reject, and no reason to call the others texts.
    [Fact]
    public void AFewWrongValuesDoNotHideWhatTheOthersAre()
    {
        var days = Enumerable.Range(0, 100).Select(i => i == 50 ? "2026-02-30" : $"2026-03-{(i % 28) + 1:00}");
        var look = Look("in.csv", $"day|{string.Join('|', days)}|");
        Assert.Equal("day: { type: date }", look.Columns);
        Assert.Equal(
            "52: day is not a date: 2026-02-30",
            $"{look.Sample.Rejects.Single().Line}: {look.Sample.Rejects.Single().Reason}"
        );
    }

    [Fact]
    public void OfALongFileTheBeginningIsLookedAt()
    {
        var look = Look("in.csv", "id|" + string.Concat(Enumerable.Range(0, 20_000).Select(i => $"{i}|")));
        Assert.Equal((FileLook.MostRows, false), (look.Sample.Seen, look.Sample.IsAll));
        Assert.Equal(["0", "1", "2"], look.Header[0].Examples);
    }

    [Theory]
    [InlineData("in.csv", null, "", "header")]
    [InlineData("in.json", null, "{\"a\": 1", "json")]
    [InlineData("in.csv", "table", "a", "setting")]
    [InlineData("in.csv.gz", null, "no gzip", "packed")]
    public void WhatCannotBeReadIsTold(string name, string? form, string text, string code) =>
        Assert.Equal(code, Assert.Throws<StepFailedException>(() => Look(name, text, form)).Error.Code);
}
