using System.Diagnostics;
using System.Globalization;
using System.IO.Compression;
using System.Text;
using System.Text.Json;
using DuckDB.NET.Data;
using GateChain.Core.Values;
using GateChain.Kinds.Load;
using GateChain.Kinds.Load.Sources;
using Sylvan.Data.Csv;

namespace GateChain.Bench;

/// <summary>Reads files as <c>kind: load</c> does, beside the plain reader of the library that it uses.</summary>
static class Reading
{
    const int Rounds = 5;

    /// <param name="rows">Rows of each file.</param>
    public static async Task MeasureAsync(int rows)
    {
        var folder = Directory.CreateTempSubdirectory("gatechain-reading-").FullName;
        try
        {
            foreach (var columns in (int[])[5, 50])
            {
                var (csv, lines, parquet) = (
                    Path.Combine(folder, "rows.csv"),
                    Path.Combine(folder, "rows.jsonl"),
                    Path.Combine(folder, "rows.parquet")
                );
                var count = rows * 5 / columns;
                await RowFile.WriteAsync(csv, count, columns);
                await WriteLinesAsync(lines, count, columns);
                WriteParquet(csv, parquet);
                Console.WriteLine($"{count:N0} rows of {columns} columns; each cell as a text");
                Compare("CSV", csv, new() { Csv = csv }, Csv);
                Compare("JSON Lines", lines, new() { Jsonl = lines }, Lines);
                Compare("Parquet", parquet, new() { Parquet = parquet }, Parquet);
            }
        }
        finally
        {
            Directory.Delete(folder, recursive: true);
        }
    }

    static void Compare(string name, string path, LoadFrom from, Func<string, long> plain)
    {
        List<double> rates = [],
            ratios = [];
        var size = new FileInfo(path).Length / 1e6;
        for (var round = -1; round < Rounds; round++)
        {
            var clock = Stopwatch.StartNew();
            var theirs = plain(path);
            var floor = clock.Elapsed.TotalSeconds;
            clock.Restart();
            var ours = Ours(path, from);
            var took = clock.Elapsed.TotalSeconds;
            if (ours != theirs)
                throw new InvalidOperationException($"{name}: {ours} characters, and {theirs} by the library");
            if (round < 0)
                continue;
            rates.Add(size / took);
            ratios.Add(floor / took);
        }
        rates.Sort();
        ratios.Sort();
        Console.WriteLine(
            $"{name}: {rates[Rounds / 2]:0} MB/s of {size:0} MB, ratio to the library's reader "
                + $"{ratios[Rounds / 2]:0.00} [{ratios[0]:0.00}-{ratios[^1]:0.00}]"
        );
    }

    // Characters of all cells, so that each is really read.
    static long Ours(string path, LoadFrom from)
    {
        using var source = RowSources.OpenFile(new(path, path, from), []);
        var sum = 0L;
        while (source.Read())
        {
            if (source.Misfit is { } misfit)
                throw new InvalidOperationException(misfit.Reason);
            for (var i = 0; i < source.FieldCount; i++)
                sum += ((string?)source[i])?.Length ?? 0;
        }
        return sum;
    }

    static long Csv(string path)
    {
        using var reader = CsvDataReader.Create(path, new CsvDataReaderOptions { BufferSize = 1 << 16 });
        var sum = 0L;
        while (reader.Read())
        {
            for (var i = 0; i < reader.FieldCount; i++)
                sum += reader.GetString(i).Length;
        }
        return sum;
    }

    static long Lines(string path)
    {
        var sum = 0L;
        foreach (var line in File.ReadLines(path))
        {
            using var row = JsonDocument.Parse(line);
            foreach (var member in row.RootElement.EnumerateObject())
                sum += member.Value.GetString()!.Length;
        }
        return sum;
    }

    static long Parquet(string path)
    {
        using var connection = new DuckDBConnection("Data Source=:memory:");
        connection.Open();
        using var command = connection.CreateCommand();
        command.CommandText = $"SELECT * FROM read_parquet('{path}')";
        command.UseStreamingMode = true;
        using var reader = command.ExecuteReader();
        var sum = 0L;
        while (reader.Read())
        {
            for (var i = 0; i < reader.FieldCount; i++)
                sum += reader.GetString(i).Length;
        }
        return sum;
    }

    static async Task WriteLinesAsync(string path, int rows, int columns)
    {
        var names = RowFile.Names(columns);
        await using var file = new StreamWriter(path, false, new UTF8Encoding(false), 1 << 16);
        foreach (var row in RowFile.Rows(rows, columns))
            await file.WriteAsync("{" + string.Join(",", names.Zip(row, (n, v) => $"\"{n}\":\"{v}\"")) + "}\n");
    }

    static void WriteParquet(string csv, string path)
    {
        using var connection = new DuckDBConnection("Data Source=:memory:");
        connection.Open();
        using var command = connection.CreateCommand();
        command.CommandText =
            $"COPY (SELECT * FROM read_csv('{csv}', all_varchar = true)) TO '{path}' (FORMAT parquet)";
        command.ExecuteNonQuery();
    }

    /// <summary>
    /// Loads a packed file with one bad line in its middle: what is rejected, how fast it goes, what memory it takes.
    /// </summary>
    /// <param name="bytes">The size of the packed file, at least.</param>
    public static async Task PackedAsync(long bytes)
    {
        var folder = Directory.CreateTempSubdirectory("gatechain-packed-").FullName;
        try
        {
            var path = Path.Combine(folder, "rows.csv.gz");
            var text = await PackAsync(path, bytes);
            PeakMemory.Forget();
            var before = PeakMemory.MiB();
            var clock = Stopwatch.StartNew();
            var result = await new LoadKind().RunAsync(
                ValueJson
                    .TryParse(
                        """
                        {"from": {"csv": "rows.csv.gz"}, "into": {"csv": "out.csv"},
                         "reject": {"limit": 1, "file": "bad.csv"},
                         "columns": {"pickup_id": {}, "litres": {"type": "decimal"}}}
                        """
                    )!
                    .Value,
                Alone.In(folder),
                default
            );
            if (result.Error is { } error)
                throw new InvalidOperationException($"{error.Message} {error.Detail}");
            var took = clock.Elapsed.TotalSeconds;
            var packed = new FileInfo(path).Length / 1e6;
            Console.WriteLine(
                $"{packed / 1e3:0.00} GB packed, {text / 1e9:0.00} GB of text: {took:0} s, "
                    + $"{packed / took:0} MB/s packed, {text / 1e6 / took:0} MB/s of text; "
                    + $"memory of this process at most {PeakMemory.MiB()} MiB (before {before})"
            );
            Console.WriteLine($"rejected: {File.ReadLines(Path.Combine(folder, "bad.csv")).Last()}");
        }
        finally
        {
            Directory.Delete(folder, recursive: true);
        }
    }

    static async Task<long> PackAsync(string path, long bytes)
    {
        var length = 0L;
        var isBad = false;
        await using var file = File.Create(path);
        await using var packed = new GZipStream(file, CompressionLevel.Fastest);
        await using var writer = new StreamWriter(packed, new UTF8Encoding(false), 1 << 16);
        await writer.WriteAsync("pickup_id,depot,farm_id,taken_at,litres\n");
        foreach (var row in RowFile.Rows(int.MaxValue - 1, 5))
        {
            if (!isBad && file.Position > bytes / 2)
            {
                isBad = true;
                row[4] = "many";
            }
            var line = string.Create(CultureInfo.InvariantCulture, $"{row[0]},{row[1]},{row[2]},{row[3]},{row[4]}\n");
            length += line.Length;
            await writer.WriteAsync(line);
            if (file.Position > bytes)
                break;
        }
        return length;
    }
}
