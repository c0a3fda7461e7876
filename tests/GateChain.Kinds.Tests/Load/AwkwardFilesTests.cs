using System.IO.Compression;
using System.Text;
using System.Text.Json;
using GateChain.Core.Running;
using GateChain.Kinds.Load;

namespace GateChain.Kinds.Tests.Load;

/// <summary>Files as they come, and what arrives of them.</summary>
public sealed class AwkwardFilesTests : IDisposable
{
    readonly Bench _bench = new();

    public void Dispose() => _bench.Dispose();

    // Bars are ends of lines; what is refused begins with “!”.
    async Task<string> LoadAsync(string from, string columns = "{}", int limit = 0)
    {
        var result = await RunAsync(from, columns, limit);
        return result.Error is { } error
            ? $"!{error.Code}: {error.Message}"
                + (
                    error.Code == "rejects"
                        ? error.Detail![error.Detail!.IndexOf("First: ", StringComparison.Ordinal)..]
                        : ""
                )
            : File.ReadAllText(_bench["out.csv"]).TrimEnd('\n').Replace('\n', '|');
    }

    Task<AttemptResult> RunAsync(string from, string columns, int limit = 0) =>
        _bench.RunAsync(
            new LoadKind(),
            $$$"""
            {"from": {{{from}}}, "into": {"csv": "out.csv"}, "columns": {{{columns}}},
             "reject": {"limit": {{{limit}}}, "file": "rejects.csv"}}
            """
        );

    static string Text(string rules) => "{\"csv\": \"in.csv\", \"text\": " + rules + "}";

    static readonly string Numbers = """{"name": {}, "litres": {"type": "decimal"}}""";

    [Theory]
    // Encodings.
    [InlineData("windows-1252", "name;x|Käse – 5 €;1", "{\"encoding\": \"windows-1252\"}", "name,x|Käse – 5 €,1")]
    [InlineData("iso-8859-15", "name;x|Œuf 5 €;1", "{\"encoding\": \"iso-8859-15\"}", "name,x|Œuf 5 €,1")]
    [InlineData("utf-16", "name;x|Käse;1", "{}", "name,x|Käse,1")]
    [InlineData("utf-8", "\uFEFFname;x|Käse;1", "{}", "name,x|Käse,1")]
    [InlineData("utf-8", "a;b|1;2", "{\"encoding\": \"utf-9\"}", "!setting: there is no encoding “utf-9”")]
    // Headers.
    [InlineData("utf-8", "1;2|3;4", "{\"header\": false, \"names\": [\"a\", \"b\"]}", "a,b|1,2|3,4")]
    [InlineData("utf-8", "1;2|3;4", "{\"header\": false}", "column1,column2|1,2|3,4")]
    [InlineData("utf-8", "x y;z|3;4", "{\"names\": [\"a\", \"b\"]}", "a,b|3,4")]
    // What stands around the rows.
    [InlineData(
        "utf-8",
        "Report of the depot|2026-03-02|a;b|1;2|# a remark|3;4|Sum;2|End",
        "{\"skip\": 2, \"skipEnd\": 2, \"comment\": \"#\"}",
        "a,b|1,2|3,4"
    )]
    [InlineData("utf-8", "a;b|#1;2", "{}", "a,b|#1,2")]
    [InlineData("utf-8", "a;b|", "{\"skipEnd\": 5}", "!header: in.csv is empty: it has no header line")]
    // Quotes.
    [InlineData("utf-8", "a;b|'it''s; so';2", "{\"quote\": \"'\"}", "a,b|it's; so,2")]
    [InlineData("utf-8", "a;b|\"say \\\"no\\\"; now\";2", "{\"escape\": \"\\\\\"}", "a,b|\"say \"\"no\"\"; now\",2")]
    [InlineData("utf-8", "a;b|5\" pipe;\"2", "{\"quote\": \"none\"}", "a,b|\"5\"\" pipe\",\"\"\"2\"")]
    [InlineData("utf-8", "a;b|1;2", "{\"quote\": \"ab\"}", "!setting: “quote” is one character, and not “ab”")]
    // Nothing, and blanks.
    [InlineData("utf-8", "a;b|NULL; - |  x ;-", "{\"trim\": true, \"empty\": [\"NULL\", \"-\"]}", "a,b|,|x,")]
    public async Task ATextIsReadAsItsSettingsSay(string encoding, string text, string rules, string arrives)
    {
        Encoding.RegisterProvider(CodePagesEncodingProvider.Instance);
        var named = Encoding.GetEncoding(encoding);
        File.WriteAllBytes(
            _bench["in.csv"],
            [.. encoding == "utf-16" ? named.GetPreamble() : [], .. named.GetBytes(text.Replace("|", "\r\n"))]
        );
        Assert.Equal(arrives, await LoadAsync(Text(rules)));
    }

    [Theory]
    [InlineData("1.234,5", "{\"decimal\": \",\", \"thousands\": \".\"}", "1234.5")]
    [InlineData("-12 345 678,25", "{\"decimal\": \",\", \"thousands\": \" \"}", "-12345678.25")]
    [InlineData("1'234.50", "{\"thousands\": \"'\"}", "1234.50")]
    [InlineData("12,5", "{\"decimal\": \",\"}", "12.5")]
    [InlineData(
        "1.5",
        "{\"decimal\": \",\"}",
        "!rejects: 1 of 1 line was rejected; the limit is 0First: line 2: litres is not a decimal: 1.5"
    )]
    [InlineData(
        "1,5",
        "{\"thousands\": \",\"}",
        "!rejects: 1 of 1 line was rejected; the limit is 0First: line 2: litres is not a decimal: 1,5"
    )]
    public async Task NumbersAreReadAsTheyAreWrittenThereAndNoOtherWay(string number, string rules, string arrives)
    {
        _bench.Write("in.csv", $"name;litres\nfarm;{number}\n");
        var got = await LoadAsync(Text(rules), Numbers);
        Assert.Equal(arrives.StartsWith('!') ? arrives : $"name,litres|farm,{arrives}", got);
    }

    // What is rejected stands in its file as it stood in the source, so that it can be loaded again when it is fixed.
    [Fact]
    public async Task RejectsStandAsTheyStood()
    {
        _bench.Write("in.csv", "name;litres\n - ;1.234,5x\n");
        Assert.StartsWith(
            "!rejects",
            await LoadAsync(
                Text("{\"decimal\": \",\", \"thousands\": \".\", \"trim\": true, \"empty\": [\"-\"]}"),
                Numbers
            )
        );
        Assert.EndsWith(
            ",\"litres is not a decimal: 1.234,5x\", - ,\"1.234,5x\"\n",
            File.ReadAllText(_bench["rejects.csv"])
        );
    }

    [Fact]
    public async Task ADateIsReadInAnyOfItsFormats()
    {
        _bench.Write("in.csv", "day\n02.03.2026\n2026-03-03\n4/3/26\nnever\n");
        var got = await LoadAsync(
            """{"csv": "in.csv"}""",
            """{"day": {"type": "date", "format": "dd.MM.yyyy", "formats": ["yyyy-MM-dd", "d/M/yy"]}}""",
            limit: 1
        );
        Assert.Equal("day|2026-03-02|2026-03-03|2026-03-04", got);
        Assert.Contains("in.csv,5,day,never,day is not a date: never,never", File.ReadAllText(_bench["rejects.csv"]));
    }

    [Theory]
    [InlineData("gz")]
    [InlineData("zst")]
    [InlineData("zip")]
    public async Task WhatIsPackedIsReadOnTheWay(string ending)
    {
        var text = "a,b\n" + string.Concat(Enumerable.Range(0, 50_000).Select(i => $"{i},{i % 7}\n"));
        Pack(ending, text);
        Assert.Equal(
            text.TrimEnd('\n').Replace('\n', '|'),
            await LoadAsync($$"""{"csv": "in.csv.{{ending}}", "entry": "*.csv"}""")
        );
        // Cut off, as by a transfer that broke: where the framework ends without a word, too.
        var bytes = File.ReadAllBytes(_bench[$"in.csv.{ending}"]);
        File.WriteAllBytes(_bench[$"in.csv.{ending}"], bytes[..(bytes.Length / 2)]);
        var before = File.ReadAllText(_bench["out.csv"]);
        Assert.StartsWith("!packed: ", await LoadAsync($$"""{"csv": "in.csv.{{ending}}", "entry": "*.csv"}"""));
        Assert.Equal(before, File.ReadAllText(_bench["out.csv"]));
    }

    // As parallel packers write them, and as who appends does.
    [Fact]
    public async Task AGzipFileOfSeveralMembersIsReadAndIfItIsCutItIsTold()
    {
        Pack("gz", "a\n1\n");
        var one = File.ReadAllBytes(_bench["in.csv.gz"]);
        Pack("gz", "2\n3\n");
        var two = File.ReadAllBytes(_bench["in.csv.gz"]);
        File.WriteAllBytes(_bench["in.csv.gz"], [.. one, .. two]);
        Assert.Equal("a|1|2|3", await LoadAsync("""{"csv": "in.csv.gz"}"""));
        File.WriteAllBytes(_bench["in.csv.gz"], [.. one, .. two[..^9]]);
        Assert.StartsWith("!packed: ", await LoadAsync("""{"csv": "in.csv.gz"}"""));
        one[^6] ^= 1;
        File.WriteAllBytes(_bench["in.csv.gz"], one);
        Assert.StartsWith("!packed: ", await LoadAsync("""{"csv": "in.csv.gz"}"""));
    }

    void Pack(string ending, string text)
    {
        using var file = File.Create(_bench[$"in.csv.{ending}"]);
        if (ending == "zip")
        {
            using var archive = new ZipArchive(file, ZipArchiveMode.Create);
            using var other = archive.CreateEntry("sub/read.me").Open();
            other.Write("not this one"u8);
            other.Dispose();
            using var entry = archive.CreateEntry("sub/prices.csv").Open();
            entry.Write(Encoding.UTF8.GetBytes(text));
            return;
        }
        using Stream packed =
            ending == "gz" ? new GZipStream(file, CompressionLevel.Fastest) : new ZstdSharp.CompressionStream(file);
        packed.Write(Encoding.UTF8.GetBytes(text));
    }

    [Fact]
    public async Task OfAnArchiveTheFileThatIsMeantIsRead()
    {
        Pack("zip", "a\n1\n");
        Assert.Equal("!packed: in.csv.zip holds 2 files; one is read", await LoadAsync("""{"csv": "in.csv.zip"}"""));
        Assert.Equal("a|1", await LoadAsync("""{"csv": "in.csv.zip", "entry": "*.csv"}"""));
    }

    [Theory]
    [InlineData("gz")]
    [InlineData("zst")]
    public async Task WhatEndsLikeAPackedFileIsPacked(string ending)
    {
        _bench.Write("in.csv", "a,b\n1,2\n");
        var settings = $$$"""{"from": {"csv": "in.csv"}, "into": {"csv": "packed.csv.{{{ending}}}"}}""";
        Assert.Null((await _bench.RunAsync(new LoadKind(), settings)).Error);
        Assert.NotEqual((byte)'a', File.ReadAllBytes(_bench[$"packed.csv.{ending}"])[0]);
        Assert.Equal("a,b|1,2", await LoadAsync($$"""{"csv": "packed.csv.{{ending}}"}"""));
    }

    [Fact]
    public async Task SeveralFilesAreOneSourceAndEachRowKnowsItsOwn()
    {
        _bench.Write("in/b.csv", "id,n\n3,x\n4,2\n");
        _bench.Write("in/a.csv", "id,n\n1,1\n2,1\n");
        _bench.Write("in/notes.txt", "no csv");
        var columns = """{"id": {}, "n": {"type": "int"}, "file": {}}""";
        Assert.Equal(
            "id,n,file|1,1,in/a.csv|2,1,in/a.csv|4,2,in/b.csv",
            await LoadAsync("""{"csv": "in/*.csv", "fileColumn": "file"}""", columns, limit: 1)
        );
        Assert.Contains("in/b.csv,2,n,x,n is not an int: x,3,x,in/b.csv", File.ReadAllText(_bench["rejects.csv"]));
        Assert.EndsWith(
            "First: in/b.csv, line 2: n is not an int: x",
            await LoadAsync("""{"csv": "in/*.csv", "fileColumn": "file"}""", columns)
        );
        _bench.Write("in/c.csv", "id,m\n5,5\n");
        Assert.Equal(
            "!header: the columns of in/c.csv are not those of in/a.csv: it lacks n and has m",
            await LoadAsync("""{"csv": "in/*.csv"}""", """{"id": {}}""")
        );
        Assert.Equal("!no-file: no file is named like in/*.dat", await LoadAsync("""{"csv": "in/*.dat"}"""));
    }

    [Fact]
    public async Task AFixedWidthFileHasItsFieldsByTheirPlaces()
    {
        _bench.Write(
            "in.txt",
            "F001Hill Farm   12,5\nF002Grünau       7\n\nF003\nF004Far too long line    9 and more\n"
        );
        var from = """
            {"fixed": "in.txt", "widths": {"code": 4, "name": 12, "litres": 4},
             "text": {"decimal": ","}}
            """;
        var columns = """{"code": {}, "name": {}, "litres": {"type": "decimal"}}""";
        Assert.Equal("code,name,litres|F001,Hill Farm,12.5|F002,Grünau,7", await LoadAsync(from, columns, limit: 2));
        var rejects = File.ReadAllText(_bench["rejects.csv"]);
        Assert.Contains("in.txt,4,,,\"the line has 4 characters, and its last field begins at 17\"", rejects);
        Assert.Contains("in.txt,5,,,\"the line has 35 characters, and its fields only 20\"", rejects);
        Assert.StartsWith("!setting: “widths”", await LoadAsync("""{"fixed": "in.txt"}"""));
    }

    [Theory]
    [InlineData("[{\"a\": 1, \"b\": \"x\"}, {\"b\": \"y\"}]", null, "a,b|1,x|,y")]
    [InlineData("{\"n\": [1, {}], \"data\": {\"items\": [{\"a\": 1}]}, \"z\": 2}", "/data/items", "a|1")]
    [InlineData("{\"a/b\": [{\"a\": 12345678901234567890.5}]}", "/a~1b", "a|12345678901234567890.5")]
    [InlineData("[]", null, "")]
    [InlineData("{\"data\": 1}", "/data/items", "!json: /data of in.json is not an object")]
    [InlineData("{\"data\": 1}", "/other", "!json: /other of in.json is not there, or no array of rows")]
    [InlineData("[{\"a\": 1}, {\"a\":", null, "!json: in.json can't be read: *")]
    [InlineData("[{\"a\": 1}, {\"a\": 01}]", null, "!json: in.json can't be read: *")]
    [InlineData(
        "[{\"a\": 1}, 5]",
        null,
        "!rejects: 1 of 2 rows was rejected; the limit is 0First: row 2: the row is not a JSON object"
    )]
    public async Task AnArrayInAJsonDocumentIsRead(string json, string? at, string arrives)
    {
        _bench.Write("in.json", json);
        var from = at is null ? """{"json": "in.json"}""" : $$"""{"json": "in.json", "at": "{{at}}"}""";
        var got = await LoadAsync(from);
        if (arrives.EndsWith('*'))
            Assert.StartsWith(arrives[..^1], got);
        else
            Assert.Equal(arrives, got);
    }

    // Rows are longer than what is read at once, and begin anywhere in it.
    [Fact]
    public async Task AJsonDocumentIsReadInPieces()
    {
        var rows = Enumerable.Range(0, 500).Select(i => new { i, text = new string((char)('a' + (i % 26)), i * 13) });
        _bench.Write("in.json", JsonSerializer.Serialize(new { before = new string('x', 70_000), rows }));
        Assert.Equal(
            "i,text|" + string.Join('|', rows.Select(r => r.i == 0 ? "0,\"\"" : $"{r.i},{r.text}")),
            await LoadAsync("""{"json": "in.json", "at": "/rows"}""")
        );
    }

    [Fact]
    public async Task AColumnComesFromWithinAnObject()
    {
        _bench.Write(
            "in.jsonl",
            "{\"id\": 1, \"address\": {\"town\": \"Larkmoor\", \"geo\": {\"lat\": 1.5}}}\n{\"id\": 2}\n"
        );
        Assert.Equal(
            "id,town,lat|1,Larkmoor,1.5|2,,",
            await LoadAsync(
                """{"jsonl": "in.jsonl"}""",
                """{"id": {}, "town": {"from": "address.town"}, "lat": {"from": "address.geo.lat"}}"""
            )
        );
    }

    [Theory]
    [InlineData(
        "<farms xmlns:x='urn:x'><x:farm id='1'><name>Hill &amp; Co</name><address><town>L</town></address></x:farm>"
            + "<farm id='2'><name><![CDATA[<b>]]></name></farm></farms>",
        "@id,name,address/town|1,Hill & Co,L|2,<b>,"
    )]
    [InlineData("<farms><farm>one</farm><farm/></farms>", ".|one")]
    [InlineData("<farms><farm><a>1</a>", "!xml: in.xml can't be read: *")]
    [InlineData(
        "<!DOCTYPE f [<!ENTITY e SYSTEM 'file:///etc/passwd'>]><farms>&e;</farms>",
        "!xml: in.xml can't be read: *"
    )]
    [InlineData(
        "<farms><farm><a>1</a><a>2</a></farm></farms>",
        "!rejects: 1 of 1 line was rejected; the limit is 0First: line 1: the row has a twice"
    )]
    public async Task AnXmlDocumentIsReadByItsRows(string xml, string arrives)
    {
        _bench.Write("in.xml", xml);
        var got = await LoadAsync("""{"xml": "in.xml", "row": "farm"}""");
        if (arrives.EndsWith('*'))
            Assert.StartsWith(arrives[..^1], got);
        else
            Assert.Equal(arrives, got);
    }
}
