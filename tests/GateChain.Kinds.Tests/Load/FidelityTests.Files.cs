using System.Text;
using GateChain.Core.Values;
using GateChain.Kinds.Load;
using GateChain.Kinds.Sql;

namespace GateChain.Kinds.Tests.Load;

public sealed partial class FidelityTests
{
    [Fact]
    public async Task NamesThatTheFirstLineLacksArriveToo()
    {
        Bench.Write("in.jsonl", "{\"id\":50}\n{\"id\":51,\"v\":\"LATE\"}\n");
        await MustAsync("""{"jsonl": "in.jsonl"}""", """{"csv": "out.csv"}""");
        Assert.Equal("id,v\n50,\n51,LATE\n", File.ReadAllText(Bench["out.csv"]));
    }

    [Theory]
    [InlineData("id,name,city\n1,Smith, John,Paris\n", "rejects", "line 2: the line has 4 fields, and the header 3")]
    [InlineData("id,name\n1,x,\n2,y,,\n", null, "1,x\n2,y")]
    [InlineData("id,name\n\n1,x\n\r\n2,y\n\n\n", null, "1,x\n2,y")]
    [InlineData("id\n1\n\n\"\"\n2\n", null, "1\n\"\"\n2")]
    [InlineData("id,name\n1,\"a,\"\"\"\"b\"\n2,\"\"\n3,\n", null, "1,\"a,\"\"\"\"b\"\n2,\"\"\n3,")]
    [InlineData("id;name\n\"\";\"\"\n;\"x;\"\"\"\n", null, "\"\",\"\"\n,\"x;\"\"\"")]
    public async Task LinesOfACsvFileAreRowsWholeOrRejects(string text, string? code, string expected)
    {
        Bench.Write("in.csv", text);
        var result = await LoadAsync("""{"csv": "in.csv"}""", """{"csv": "out.csv"}""");
        Assert.Equal(code, result.Error?.Code);
        if (code is not null)
            Assert.Contains(expected, result.Error!.Detail, StringComparison.Ordinal);
        else
            Assert.Equal(expected, string.Join('\n', File.ReadAllLines(Bench["out.csv"]).Skip(1)));
    }

    [Theory]
    [InlineData("", "header", "in.csv is empty")]
    [InlineData("id,id\n1,2\n", "header", "“id” twice")]
    [InlineData("id\nBIG5\n", null, "")]
    [InlineData("id\n1\nBIG20\n", "csv", "line 3 of in.csv has more than 16 Mi characters")]
    [InlineData("id\n1\n\"BIG20\n", "csv", "line 3 of in.csv has more than 16 Mi characters")]
    public async Task NoFileIsAMistakeOfGateChain(string text, string? code, string says)
    {
        Bench.Write(
            "in.csv",
            text.Replace("BIG5", new string('x', 5 << 20), StringComparison.Ordinal)
                .Replace("BIG20", new string('x', 20 << 20), StringComparison.Ordinal)
        );
        var result = await LoadAsync("""{"csv": "in.csv"}""", """{"jsonl": "out.jsonl"}""");
        Assert.Equal(code, result.Error?.Code);
        Assert.Contains(says, result.Error?.Message ?? "", StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("csv", 3)]
    [InlineData("csv", 100_000)]
    [InlineData("jsonl", 100)]
    public async Task ALineThatIsNotUtf8IsARejectAndNothingElseIs(string kind, int line)
    {
        var text = new MemoryStream();
        if (kind == "csv")
            text.Write("id,n\n"u8);
        for (var i = kind == "csv" ? 2 : 1; i < line; i++)
            text.Write(Encoding.UTF8.GetBytes(kind == "csv" ? $"{i},Öre\n" : $"{{\"id\":{i},\"n\":\"Öre\"}}\n"));
        text.Write(
            kind == "csv" ? [.. "1,M"u8, 0xfc, .. "ller\n"u8] : [.. "{\"id\":1,\"n\":\"M"u8, 0xfc, .. "ller\"}\n"u8]
        );
        text.Write(kind == "csv" ? "2,Ärzte \ufffd\n"u8 : "{\"id\":2,\"n\":\"Ärzte\"}\n"u8);
        File.WriteAllBytes(Bench["l1." + kind], text.ToArray());
        var from = $$"""{"{{kind}}": "l1.{{kind}}"}""";
        var error = (await LoadAsync(from, """{"csv": "out.csv"}""")).Error!;
        Assert.Equal("rejects", error.Code);
        Assert.Contains(
            $"First: line {line}: {(kind == "csv" ? "n" : "the line")} is not UTF-8: ",
            error.Detail,
            StringComparison.Ordinal
        );
        Assert.Contains("encoding: windows-1252", error.Detail, StringComparison.Ordinal);
        var result = await MustAsync(from, """{"csv": "out.csv"}""", """, "reject": {"limit": 1, "file": "bad.csv"}""");
        Assert.Equal(
            (kind == "csv" ? line - 1 : line).ToString(System.Globalization.CultureInfo.InvariantCulture),
            Count(result, "written")
        );
        Assert.DoesNotContain("ller", File.ReadAllText(Bench["out.csv"]), StringComparison.Ordinal);
        Assert.EndsWith(
            "\n2,Ärzte" + (kind == "csv" ? " \ufffd\n" : "\n"),
            File.ReadAllText(Bench["out.csv"]),
            StringComparison.Ordinal
        );
        Assert.StartsWith($"l1.{kind},{line},", File.ReadAllLines(Bench["bad.csv"])[1], StringComparison.Ordinal);
    }

    // Signs of UTF-16 that are halves of one, and a file that ends in the middle of a sign.
    [Theory]
    [InlineData(
        new byte[]
        {
            0xff,
            0xfe,
            (byte)'n',
            0,
            (byte)'\n',
            0,
            (byte)'a',
            0,
            (byte)'\n',
            0,
            0x00,
            0xd8,
            (byte)'\n',
            0,
            (byte)'b',
            0,
        },
        "a b"
    )]
    [InlineData(new byte[] { (byte)'n', (byte)'\n', (byte)'a', (byte)'\n', (byte)'b', (byte)'\n', 0xc3 }, "a b")]
    [InlineData(
        new byte[]
        {
            0xef,
            0xbb,
            0xbf,
            (byte)'n',
            (byte)'\n',
            (byte)'a',
            (byte)'\n',
            0xff,
            (byte)'\n',
            (byte)'b',
            (byte)'\n',
        },
        "a b"
    )]
    public async Task WhatIsNoTextIsFoundInAnyEncoding(byte[] file, string expected)
    {
        File.WriteAllBytes(Bench["in.csv"], file);
        Assert.Equal(
            "1",
            Count(
                await MustAsync("""{"csv": "in.csv"}""", """{"csv": "out.csv"}""", """, "reject": {"limit": 1}"""),
                "rejected"
            )
        );
        Assert.Equal("n " + expected, string.Join(' ', File.ReadAllLines(Bench["out.csv"])));
    }

    [Theory]
    [InlineData("id,n\n1,\"a\"b\n2,c\n", "line 2: something follows a quote", "2,c")]
    [InlineData("id,n\n1,a\"b\n2,\"c\"\n", null, "1,\"a\"\"b\"|2,c")]
    [InlineData("id,n\n1,\"a\nb\"\n2,c\n", null, "1,\"a|b\"|2,c")]
    [InlineData("id,n\r\n1,\"a\"\r\n2,\"c\" \r\n3,d\r\n", "line 3: something follows", "1,a|3,d")]
    [InlineData("id,n\n1,\"a\n2,c\n", "line 2 of in.csv has a quote that is not closed", null)]
    [InlineData("id,n\n1\n2,c\n3,d,e\n4,f\n", "line 2: the line has only 1 fields", "2,c|4,f")]
    public async Task ACsvLineThatIsBrokenIsARejectAndReadingGoesOn(string text, string? says, string? arrives)
    {
        Bench.Write("in.csv", text);
        var error = (await LoadAsync("""{"csv": "in.csv"}""", """{"csv": "out.csv"}""")).Error;
        if (says is null)
            Assert.Null(error);
        else
            Assert.Contains(says, $"{error?.Message} {error?.Detail}", StringComparison.Ordinal);
        var result = await LoadAsync(
            """{"csv": "in.csv"}""",
            """{"csv": "out.csv"}""",
            """, "reject": {"limit": 2, "file": "bad.csv"}"""
        );
        Assert.Equal(arrives is null, result.Error is not null);
        if (arrives is not null)
            Assert.Equal(arrives, string.Join('|', File.ReadAllLines(Bench["out.csv"]).Skip(1)));
    }

    [Theory]
    [InlineData("{\"id\":1}\n{\"id\":\n{\"id\":3}\n", "line 2: the line is not JSON: ")]
    [InlineData("{\"id\":1}\n[2]\n{\"id\":3}\n", "line 2: the line is not a JSON object")]
    [InlineData("{\"id\":1}\n\n{\"id\":\"\\ud800\"}\n{\"id\":3}\n", "line 3: the line has a text that is no Unicode")]
    [InlineData("{\"id\":1} x\n{\"id\":1}\n{\"id\":3}", "line 1: the line is not JSON: ")]
    public async Task AJsonLineThatIsBrokenIsARejectAndReadingGoesOn(string text, string says)
    {
        Bench.Write("in.jsonl", text);
        Assert.Contains(
            "First: " + says,
            (await LoadAsync("""{"jsonl": "in.jsonl"}""", """{"csv": "out.csv"}""")).Error?.Detail,
            StringComparison.Ordinal
        );
        await MustAsync("""{"jsonl": "in.jsonl"}""", """{"csv": "out.csv"}""", """, "reject": {"limit": 1}""");
        Assert.Equal("id 1 3", string.Join(' ', File.ReadAllLines(Bench["out.csv"])));
    }

    [Theory]
    [InlineData("csv", "id\n1\n2\n")]
    [InlineData("jsonl", "{\"id\":1}\n{\"id\":2}\n")]
    public async Task AFileThatIsStillWrittenIsNotTakenForAWholeOne(string kind, string text)
    {
        Bench.Write("in." + kind, text);
        Bench.Write("out.csv", "before");
        var settings = ValueJson
            .TryParse(
                $$$"""{"from": {"{{{kind}}}": "in.{{{kind}}}"}, "into": {"csv": "out.csv"}, "columns": {"id": {"value": "row.id"}}, "batch": 100}"""
            )!
            .Value;
        // The file grows once it is open.
        var grown = false;
        var context = Bench.Context() with
        {
            Attachment = _ => null,
            Time = new Told(() =>
            {
                if (!grown)
                {
                    grown = true;
                    File.AppendAllText(Bench["in." + kind], text[text.IndexOf('\n', StringComparison.Ordinal)..]);
                }
            }),
        };
        var error = (await new LoadKind().RunAsync(settings, context, default)).Error!;
        Assert.Equal(
            ("changed", true),
            (error.Code, error.Message.Contains("still being written", StringComparison.Ordinal))
        );
        Assert.Equal("before", File.ReadAllText(Bench["out.csv"]));
    }

    // Tells that the clock is asked for: a load does so when its source is open.
    sealed class Told(Action asked) : TimeProvider
    {
        public override long GetTimestamp()
        {
            asked();
            return base.GetTimestamp();
        }
    }
}
