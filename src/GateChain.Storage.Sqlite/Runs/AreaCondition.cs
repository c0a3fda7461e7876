using System.Text.Json;
using GateChain.Core.Identity;

namespace GateChain.Storage.Sqlite;

/// <summary>Asks for what lies in areas and below them.</summary>
static class AreaCondition
{
    /// <summary>The condition on the column <c>area</c> of a table, with the parameter <c>areas</c>.</summary>
    public static string Of(string table) =>
        $"""
            EXISTS (SELECT 1 FROM json_each(@areas) AS given WHERE {table}.area = given.value
                OR ({table}.area > given.value || '/' AND {table}.area < given.value || '0'))
            """;

    /// <summary>The parameter; null for all areas.</summary>
    public static string? Value(IReadOnlyList<Area>? areas) =>
        areas is null ? null : JsonSerializer.Serialize(areas.Select(a => a.Path));
}
