using System.Diagnostics;
using System.Text;
using GateChain.Core.Values;
using GateChain.Kinds.Files;
using GateChain.Kinds.Load;
using GateChain.Kinds.Sql;

namespace GateChain.Kinds.Tests.Load;

/// <summary>What meets a load at night.</summary>
public sealed class BadInputTests : IDisposable
{
    readonly Bench _bench = new();
    readonly LoadKind _kind = new();
    readonly string _table = "t" + Guid.NewGuid().ToString("N")[..12];

    public void Dispose() => _bench.Dispose();

    [Fact]
    public async Task AWrongTypeInTheLastOfManyRowsIsTold()
    {
        var text = new StringBuilder("id,litres\n");
        for (var i = 1; i < 1_000_000; i++)
            text.Append(i).Append(",1.5\n");
        _bench.Write("in.csv", text.Append("1000000,much\n").ToString());
        _bench.Write("out.csv", "before");
        const string settings =
            """{"from": {"csv": "in.csv"}, "into": {"csv": "out.csv"}, "columns": {"id": {"type": "int"}, "litres": {"type": "double"}}}""";
        var result = await _bench.RunAsync(_kind, settings);
        Assert.Equal("1 of 1,000,000 lines was rejected; the limit is 0", result.Error!.Message);
        Assert.EndsWith("First: line 1000001: litres is not a double: much", result.Error.Detail);
        Assert.Equal("before", File.ReadAllText(_bench["out.csv"]));
    }

    [Theory]
    [InlineData(
        "xl/sharedStrings.xml",
        300 << 20,
        null,
        "size",
        "the texts of in.xlsx would be 300 MiB; more than 256 MiB are not read from a workbook"
    )]
    [InlineData("xl/sheet1.xml", 0, "<!DOCTYPE x [<!ENTITY e SYSTEM 'file:///etc/passwd'>]><x>&e;</x>", "xlsx", "DTD")]
    [InlineData(
        "xl/sheet1.xml",
        0,
        "<worksheet xmlns='http://schemas.openxmlformats.org/spreadsheetml/2006/main'><sheetData><row "
            + "r='1'><c r='A1' t='inlineStr'><is><t>id</t></is></c></row><row r='2'><c "
            + "r='A2'><v>1</v></c></row><row r='3'><c r='A3'><v>2</v>",
        "xlsx",
        "in.xlsx"
    )]
    public async Task AWorkbookThatIsABombOrBrokenIsRefusedInASentence(
        string part,
        int zeros,
        string? text,
        string code,
        string says
    )
    {
        Workbook.Write(
            _bench["in.xlsx"],
            (
                "Sheet1",
                [
                    ["id"],
                    ["1"],
                ]
            )
        );
        using (
            var zip = System.IO.Compression.ZipFile.Open(_bench["in.xlsx"], System.IO.Compression.ZipArchiveMode.Update)
        )
        {
            zip.GetEntry(part)?.Delete();
            using var entry = zip.CreateEntry(part).Open();
            var block = new byte[1 << 20];
            for (var left = zeros; left > 0; left -= block.Length)
                entry.Write(block);
            if (text is not null)
                entry.Write(Encoding.UTF8.GetBytes("<?xml version=\"1.0\"?>" + text));
        }
        var error = (
            await _bench.RunAsync(_kind, """{"from": {"xlsx": "in.xlsx"}, "into": {"csv": "out.csv"}}""")
        ).Error!;
        Assert.Equal(code, error.Code);
        Assert.Contains(says, error.Message, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData(
        "postgresql",
        "SELECT pid FROM pg_stat_activity WHERE application_name = 'Gate Chain' AND pid <> pg_backend_pid()",
        "SELECT pg_terminate_backend($id)"
    )]
    [InlineData(
        "mysql",
        "SELECT id FROM information_schema.processlist WHERE user = 'loader' AND id <> connection_id()",
        "KILL $id"
    )]
    public async Task AConnectionThatIsCutInTheMiddleLosesAndDoublesNothing(string type, string sessions, string cut)
    {
        using var server = Servers.Databases.ConnectOwn(_bench, type);
        _bench.Write("in.csv", "id\n" + string.Concat(Enumerable.Range(1, 1000).Select(i => $"{i}\n")));
        var settings = ValueJson
            .TryParse(
                $$"""{"from": {"csv": "in.csv"}, "into": {"connection": "target", "table": "{{_table}}", "create": true}, "columns": {"id": {"type": "int"} }, "batch": 100, "restart": "batch"}"""
            )!
            .Value;
        var batches = 0;
        var result = await _kind.RunAsync(
            settings,
            _bench.Context(_table) with
            {
                Progress = new Bench.Told(_ =>
                {
                    if (++batches == 4)
                        Cut();
                }),
            },
            default
        );
        Assert.Equal(("cut", true), (result.Error?.Code, result.Error?.Message.Contains("“target”")));
        Assert.Equal("0", await CountAsync());
        var again = await _kind.RunAsync(settings, _bench.Context(_table), default);
        Assert.Null(again.Error);
        Assert.Contains(_bench.Log, l => l.StartsWith("note continuing after line 401", StringComparison.Ordinal));
        Assert.Equal("1000", await CountAsync());

        void Cut()
        {
            var id = ValueText.ToPlainString(
                SqlAsync(sessions, "scalar").GetAwaiter().GetResult().Outputs.AsMap.Find("value")!.Value
            );
            Assert.Null(
                SqlAsync(cut.Replace("$id", id, StringComparison.Ordinal), "none")
                    .GetAwaiter()
                    .GetResult()
                    .Error?.Message
            );
        }
    }

    Task<Core.Running.AttemptResult> SqlAsync(string query, string give) =>
        _bench.RunAsync(
            new SqlKind(),
            $$"""{"connection": "target", "query": {{System.Text.Json.JsonSerializer.Serialize(query)}}, "give": "{{give}}"}"""
        );

    async Task<string> CountAsync() =>
        ValueText.ToPlainString(
            (await SqlAsync($"SELECT count(*) AS c FROM {_table}", "scalar")).Outputs.AsMap.Find("value")!.Value
        );

    [Theory]
    [InlineData("""{"from": {"csv": "big.csv"}, "into": {"csv": "small/out.csv"}}""")]
    [InlineData("""{"from": {"csv": "big.csv"}, "into": {"connection": "small", "table": "t"}}""")]
    [InlineData("copy")]
    public async Task AFullDiskIsToldAndLeavesTheTargetAsItWas(string settings)
    {
        _bench.Write(
            "big.csv",
            "a\n" + string.Concat(Enumerable.Range(1, 60_000).Select(i => $"{i} litres of milk\n"))
        );
        Directory.CreateDirectory(_bench["small"]);
        // A file system of its own that is very small; making one needs root, which the tests are run as.
        Run("mount", "-t", "tmpfs", "-o", "size=400k", "tmpfs", _bench["small"]);
        try
        {
            _bench.Write("small/out.csv", "before");
            _bench.Connect("small", "sqlite", ("path", "small/db.sqlite"));
            await _bench.RunAsync(
                new SqlKind(),
                """{"connection": "small", "query": "CREATE TABLE t (a TEXT); INSERT INTO t VALUES ('before')"}"""
            );
            var result =
                settings == "copy"
                    ? await _bench.RunAsync(
                        new FileKind(),
                        """{"action": "copy", "path": "big.csv", "to": "small/out.csv", "overwrite": true}"""
                    )
                    : await _bench.RunAsync(_kind, settings);
            Assert.Equal("full", result.Error!.Code);
            Assert.Contains("Make room and resume.", result.Error.Detail);
            Assert.Equal("before", File.ReadAllText(_bench["small/out.csv"]));
            Assert.Equal(
                "before",
                ValueText.ToPlainString(
                    (
                        await _bench.RunAsync(
                            new SqlKind(),
                            """{"connection": "small", "query": "SELECT group_concat(a) FROM t", "give": "scalar"}"""
                        )
                    )
                        .Outputs.AsMap.Find("value")!
                        .Value
                )
            );
        }
        finally
        {
            Run("umount", "-l", _bench["small"]);
        }
    }

    static void Run(string program, params string[] arguments)
    {
        using var process = Process.Start(program, arguments);
        process.WaitForExit();
        Assert.Equal(0, process.ExitCode);
    }
}
