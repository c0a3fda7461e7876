using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Kinds.Load;
using GateChain.Kinds.Sql;

namespace GateChain.Kinds.Tests.Load;

/// <summary>Loads into a table of its own, on a database of each type, and asks what arrived.</summary>
[Collection("stages")]
public abstract class LoadBench(Servers.Databases servers) : IDisposable
{
    public static TheoryData<string> Types => ["sqlite", "duckdb", "postgresql", "mysql", "mysql-bulk"];

    /// <summary>Those whose tables differ: how rows get into a stage is none of it.</summary>
    public static TheoryData<string> Databases => ["sqlite", "duckdb", "postgresql", "mysql"];

    internal Bench Bench { get; } = new();
    protected string Table { get; } = "t" + Guid.NewGuid().ToString("N")[..12];

    /// <summary>The bench's connection <c>target</c> leads to a database of a type.</summary>
    protected void Connect(string type, string name = "target") => servers.Connect(Bench, type, name);

    protected Task<AttemptResult> LoadAsync(string from, string into, string more = "") =>
        Bench.RunAsync(
            new LoadKind(),
            $$"""{"from": {{from}}, "into": {{into}}{{more}}}""",
            Guid.NewGuid().ToString("N")
        );

    protected async Task<AttemptResult> MustAsync(string from, string into, string more = "")
    {
        var result = await LoadAsync(from, into, more);
        Assert.True(result.Error is null, $"{result.Error?.Message}\n{result.Error?.Detail}");
        return result;
    }

    protected async Task ExecuteAsync(string sql)
    {
        var result = await Bench.RunAsync(
            new SqlKind(),
            $$"""{"connection": "target", "query": {{System.Text.Json.JsonSerializer.Serialize(sql)}}}""",
            Guid.NewGuid().ToString("N")
        );
        Assert.True(result.Error is null, result.Error?.Message);
    }

    /// <summary>Rows as the database's own client prints them: values apart by spaces, rows by bars.</summary>
    protected async Task<string> AskAsync(string query)
    {
        var result = await Bench.RunAsync(
            new SqlKind(),
            $$"""{"connection": "target", "query": {{System.Text.Json.JsonSerializer.Serialize(query)}}, "give": "rows"}"""
        );
        Assert.Null(result.Error);
        return string.Join(
            '|',
            result
                .Outputs.AsMap.Find("rows")!
                .Value.AsList.Select(r =>
                    string.Join(
                        ' ',
                        r.AsMap.Entries.Select(e => e.Value.IsNull ? "NULL" : ValueText.ToPlainString(e.Value))
                    )
                )
        );
    }

    protected string Into(string more = "") => $$"""{"connection": "target", "table": "{{Table}}"{{more}}}""";

    protected static string Query(string sql) =>
        $$"""{"connection": "target", "query": {{System.Text.Json.JsonSerializer.Serialize(sql)}}}""";

    protected static string Count(AttemptResult result, string name) =>
        ValueText.ToPlainString(result.Outputs.AsMap.Find("rows_" + name)!.Value);

    public void Dispose()
    {
        Bench.Dispose();
        GC.SuppressFinalize(this);
    }
}
