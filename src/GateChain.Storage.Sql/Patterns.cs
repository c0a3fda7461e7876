namespace GateChain.Storage.Sql;

/// <summary>Patterns of LIKE; what is special in them is written with “!” before it.</summary>
static class Patterns
{
    /// <summary>Fits texts in which another one stands; null for null.</summary>
    public static string? Holding(string? text) =>
        text is null
            ? null
            : $"%{text.Replace("!", "!!", StringComparison.Ordinal)
                .Replace("%", "!%", StringComparison.Ordinal)
                .Replace("_", "!_", StringComparison.Ordinal)}%";
}
