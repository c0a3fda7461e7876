using System.Text.Json;
using GateChain.Core.Identity;

namespace GateChain.Storage.Sql;

/// <summary>Asks for what lies in areas and below them.</summary>
static class AreaCondition
{
    /// <summary>The condition on the column <c>area</c> of a table, with the parameter <c>areas</c>.</summary>
    /// <param name="table">The table.</param>
    /// <param name="words">The database's words.</param>
    public static string Of(string table, SqlWords words) =>
        $"""
            EXISTS (SELECT 1 FROM ({words.Texts("@areas")}) AS given WHERE {table}.area = given.value
                OR ({table}.area > given.value || '/' AND {table}.area < given.value || '0'))
            """;

    /// <summary>The parameter; null for all areas.</summary>
    public static string? Value(IReadOnlyList<Area>? areas) =>
        areas is null ? null : JsonSerializer.Serialize(areas.Select(a => a.Path));
}
