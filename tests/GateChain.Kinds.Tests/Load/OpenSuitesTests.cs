using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using GateChain.Core.Running;
using GateChain.Kinds.Load;
using GateChain.Tests;

namespace GateChain.Kinds.Tests.Load;

/// <summary>
/// Open suites of awkward files: what they say is right is read as they say, what they say is wrong is refused with its
/// place. <c>tests/conformance/fetch.sh</c> brings them.
/// </summary>
public sealed class OpenSuitesTests : IDisposable
{
    readonly Bench _bench = new();

    static string Suite(string path) => Path.Combine(MadeDocs.Root, "artifacts/conformance/data", path);

    async Task<AttemptResult> LoadAsync(string from, int rejects = 0) =>
        await _bench.RunAsync(
            new LoadKind(),
            $$"""{"from": {{from}}, "into": {"jsonl": "out.jsonl"}, "reject": {"limit": {{rejects}}, "file": "bad.csv"} }""",
            Guid.NewGuid().ToString("N")
        );

    // Of this one the suite tells other rows than it has.
    const string Odd = "location_coordinates";

    public static TheoryData<string> Spectrum =>
        [
            .. Directory
                .GetFiles(Suite("csv/csvs"))
                .Select(f => Path.GetFileNameWithoutExtension(f)!)
                .Where(name => name != Odd)
                .Order(),
        ];

    [Theory]
    [MemberData(nameof(Spectrum))]
    public async Task CsvSpectrum(string name)
    {
        File.Copy(Suite($"csv/csvs/{name}.csv"), _bench["in.csv"]);
        var result = await LoadAsync("""{"csv": "in.csv", "delimiter": ","}""");
        Assert.True(result.Error is null, $"{result.Error?.Message}\n{result.Error?.Detail}");
        var expected = JsonNode.Parse(File.ReadAllText(Suite($"csv/json/{name}.json")))!.AsArray();
        Assert.Equal(
            expected.Select(row => Plain(row!)),
            File.ReadLines(_bench["out.jsonl"]).Select(line => Plain(JsonNode.Parse(line)!))
        );
    }

    // Nothing between two delimiters is nothing here, and an empty text there.
    static string Plain(JsonNode row) =>
        string.Join('|', row.AsObject().Select(f => $"{f.Key}={f.Value?.GetValue<string>()}"));

    // Each document as a value of a row: by itself it has no rows.
    [Fact]
    public async Task JsonTestSuite()
    {
        using var suite = JsonDocument.Parse(File.ReadAllText(Suite("json.json")));
        var wrong = new List<string>();
        var (right, refused, either) = (0, 0, 0);
        foreach (var one in suite.RootElement.EnumerateArray())
        {
            var name = one.GetProperty("name").GetString()!;
            File.WriteAllBytes(
                _bench["in.json"],
                [.. "[{\"v\": "u8, .. one.GetProperty("bytes").GetBytesFromBase64(), .. "}]"u8]
            );
            var result = await LoadAsync("""{"json": "in.json"}""");
            if (result.Error is { Code: not ("json" or "rejects") } odd)
                wrong.Add($"{name}: {odd.Code}: {odd.Message}");
            else if (name.StartsWith("y_", StringComparison.Ordinal) && result.Error is { } error)
                wrong.Add($"{name} is refused: {error.Message} {error.Detail}");
            else if (name.StartsWith("n_", StringComparison.Ordinal) && result.Error is null)
                wrong.Add($"{name} is taken: {File.ReadAllText(_bench["out.jsonl"])}");
            else if (name.StartsWith("y_", StringComparison.Ordinal))
                right++;
            else if (name.StartsWith("n_", StringComparison.Ordinal))
                refused++;
            else
                either++;
        }
        TestContext.Current.TestOutputHelper?.WriteLine(
            $"JSONTestSuite: {right} taken, {refused} refused, {either} either way; {wrong.Count} wrong"
        );
        Assert.Empty(wrong);
        Assert.True(right > 90 && refused > 180, $"{right} {refused}");
    }

    [Theory]
    [InlineData("UNCOMPRESSED")]
    [InlineData("SNAPPY")]
    [InlineData("GZIP")]
    [InlineData("ZSTD")]
    [InlineData("LZ4_RAW")]
    [InlineData("BROTLI")]
    public async Task ParquetOfArrow(string codec)
    {
        File.Copy(Suite($"arrow-{codec}.parquet"), _bench["in.parquet"]);
        var result = await LoadAsync("""{"parquet": "in.parquet"}""");
        Assert.True(result.Error is null, result.Error?.Message);
        Assert.Equal(
            """
            {"id":1,"litres":120.5,"farm":"HF-01","paid":true}
            {"id":2,"litres":95,"farm":"Süderhof","paid":false}
            {"id":3,"litres":-0.25,"farm":null,"paid":null}

            """,
            File.ReadAllText(_bench["out.jsonl"])
        );
    }

    [Theory]
    [InlineData("uncompressed")]
    [InlineData("snappy")]
    [InlineData("gzip")]
    [InlineData("zstd")]
    [InlineData("lz4")]
    [InlineData("brotli")]
    public async Task ParquetOfDuckDb(string codec)
    {
        using (var duck = new DuckDB.NET.Data.DuckDBConnection("Data Source=:memory:"))
        {
            duck.Open();
            using var write = duck.CreateCommand();
            write.CommandText = $"""
                COPY (
                  SELECT 1 AS id, 1234567890123.45::DECIMAL(18, 2) AS cents, DATE '2026-11-28' AS day,
                    TIMESTAMP '2026-11-28 05:10:00.25' AS at, TIME '05:10:00' AS clock, 'Süd' AS place,
                    uuid '0e36c5e6-0000-4000-8000-000000000001' AS key, true AS paid, [1, 2] AS list
                  UNION ALL SELECT 2, NULL, NULL, NULL, NULL, NULL, NULL, NULL, NULL ORDER BY 1
                ) TO '{_bench["in.parquet"]}' (FORMAT parquet, COMPRESSION {codec})
                """;
            write.ExecuteNonQuery();
        }
        var result = await LoadAsync("""{"parquet": "in.parquet"}""");
        Assert.True(result.Error is null, result.Error?.Message);
        var lines = File.ReadAllLines(_bench["out.jsonl"], Encoding.UTF8);
        Assert.Equal(
            """{"id":1,"cents":1234567890123.45,"day":"2026-11-28","at":"2026-11-28T05:10:00.25Z","clock":"05:10:00","place":"Süd","key":"0e36c5e6-0000-4000-8000-000000000001","paid":true,"list":[1,2]}""",
            lines[0]
        );
        Assert.StartsWith("""{"id":2,"cents":null,"day":null""", lines[1], StringComparison.Ordinal);
    }

    public void Dispose() => _bench.Dispose();
}
