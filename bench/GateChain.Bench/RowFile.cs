using System.Globalization;
using System.Text;

namespace GateChain.Bench;

/// <summary>Rows of milk that was picked up, in as many columns as are asked for.</summary>
static class RowFile
{
    static readonly string[] First = ["pickup_id", "depot", "farm_id", "taken_at", "litres"];

    /// <summary>The columns of a file, 5 or more.</summary>
    public static IReadOnlyList<string> Names(int columns) =>
        [.. First, .. Enumerable.Range(First.Length, columns - First.Length).Select(i => $"c{i}")];

    /// <summary>The statement that makes a table for them.</summary>
    public static string Table(string name, int columns) =>
        $"CREATE TABLE {name} (pickup_id VARCHAR(20), depot VARCHAR(20), farm_id VARCHAR(20), taken_at VARCHAR(30), "
        + "litres DOUBLE PRECISION"
        + string.Concat(Names(columns).Skip(First.Length).Select(n => $", {n} VARCHAR(20)"))
        + ")";

    /// <summary>Writes a CSV file.</summary>
    public static async Task WriteAsync(string path, int rows, int columns)
    {
        await using var file = new StreamWriter(path, false, new UTF8Encoding(false), 1 << 16);
        await file.WriteAsync(string.Join(',', Names(columns)) + "\n");
        foreach (var row in Rows(rows, columns))
            await file.WriteAsync(string.Join(',', row) + "\n");
    }

    /// <summary>Rows one after the other; the same ones each time.</summary>
    public static IEnumerable<string[]> Rows(int rows, int columns)
    {
        var chance = new Random(20261122);
        var row = new string[columns];
        for (var i = 1; i <= rows; i++)
        {
            row[0] = string.Create(CultureInfo.InvariantCulture, $"N{i:00000000}");
            row[1] = "north";
            row[2] = string.Create(CultureInfo.InvariantCulture, $"farm-{chance.Next(1, 181):000}");
            row[3] = string.Create(
                CultureInfo.InvariantCulture,
                $"2026-11-22T{chance.Next(3, 22):00}:{chance.Next(60):00}:00Z"
            );
            row[4] = string.Create(CultureInfo.InvariantCulture, $"{chance.Next(2000, 98000) / 10.0:0.0}");
            for (var c = First.Length; c < columns; c++)
                row[c] = chance.Next(100_000).ToString(CultureInfo.InvariantCulture);
            yield return row;
        }
    }
}
