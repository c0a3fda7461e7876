using System.Text.Json;
using GateChain.Kinds.Data;

namespace GateChain.Kinds.Load.Sources;

/// <summary>
/// A row that is a JSON object: its names are columns; a dot in the name of one leads into an object.
/// </summary>
/// <param name="names">The columns.</param>
sealed class JsonRow(IReadOnlyList<string> names)
{
    readonly Dictionary<string, int> _columns = names.Select((n, i) => (n, i)).ToDictionary(c => c.n, c => c.i);
    readonly (int Column, string[] Way)[] _inner =
    [
        .. names.Select((n, i) => (i, n.Split('.'))).Where(c => c.Item2.Length > 1),
    ];
    readonly object?[] _row = new object?[names.Count];

    /// <summary>A cell.</summary>
    public object? this[int column] => _row[column];

    /// <summary>Nothing is in it.</summary>
    public void Clear() => Array.Clear(_row);

    /// <summary>Takes an object in.</summary>
    /// <returns>Why it can't be taken; null when it was.</returns>
    public string? Take(JsonElement row, string what)
    {
        if (row.ValueKind != JsonValueKind.Object)
            return $"the {what} is not a JSON object";
        try
        {
            foreach (var property in row.EnumerateObject())
            {
                if (_columns.TryGetValue(property.Name, out var column))
                    _row[column] = ValueOf(property.Value);
            }
            foreach (var (column, way) in _inner)
                _row[column] ??= Within(row, way);
            return null;
        }
        // Half of a sign, written with an escape.
        catch (InvalidOperationException)
        {
            return $"the {what} has a text that is no Unicode";
        }
    }

    static object? Within(JsonElement at, string[] way)
    {
        foreach (var name in way)
        {
            if (at.ValueKind != JsonValueKind.Object || !at.TryGetProperty(name, out at))
                return null;
        }
        return ValueOf(at);
    }

    // A number keeps all of its digits, however many there are.
    static object? ValueOf(JsonElement value) =>
        value.ValueKind switch
        {
            JsonValueKind.Null => null,
            JsonValueKind.True => true,
            JsonValueKind.False => false,
            JsonValueKind.Number => ExactNumber.Read(value.GetRawText()),
            JsonValueKind.String => value.GetString(),
            _ => new JsonText(value.GetRawText()),
        };
}
