using GateChain.Core.Chains.Kinds;
using GateChain.Core.Expressions;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Settings;
using GateChain.Kinds.Sqlite;
using Microsoft.Data.Sqlite;

namespace GateChain.Kinds.Load;

/// <summary>
/// Loads a CSV file into a table. Lines are streamed; the table changes in one transaction at the end, together with the
/// mark that it has. Files of more than one batch go through a staging table, batch by batch, and after a crash the work
/// goes on behind the last batch that was committed.
/// </summary>
public sealed class LoadKind : StepKind<LoadSettings>
{
    public override KindDescription Description => Described;

    /// <summary>What the core knows of it; there without an instance.</summary>
    public static KindDescription Described { get; } = new("load", "Loads a CSV file into a table, exactly once.", SettingsShape.Of<LoadSettings>(),
        new Dictionary<string, CelType> { ["rows_read"] = CelType.Int, ["rows_written"] = CelType.Int, ["rows_rejected"] = CelType.Int, ["reject_file"] = CelType.String })
    {
        Purpose = KindPurpose.Data,
        Sample = new Dictionary<string, Value> { ["rows_read"] = Value.Int(100), ["rows_written"] = Value.Int(100), ["rows_rejected"] = Value.Int(0), ["reject_file"] = Value.String("") },
    };

    protected override ValueTask<AttemptResult> RunAsync(LoadSettings settings, AttemptContext context, CancellationToken cancel) =>
        OnThread<Exception>(() => Work(settings, context, cancel), e => e switch
        {
            SqliteException sqlite => SqliteTarget.Failure(sqlite, settings.Into.Connection),
            IOException or UnauthorizedAccessException => AttemptResult.Fail("file", e.Message),
            OperationCanceledException => AttemptResult.Fail("stopped", "ended early; the table is as it was"),
            Sylvan.Data.Csv.CsvFormatException csv => AttemptResult.Fail("csv", $"line {csv.RowNumber + 1} of {settings.From.Csv} can't be read: {csv.Message}"),
            _ => throw e,
        });

    static AttemptResult Work(LoadSettings settings, AttemptContext context, CancellationToken cancel)
    {
        var path = context.Resolve(settings.From.Csv);
        if (!File.Exists(path))
        {
            return AttemptResult.Fail("no-file", $"the file {settings.From.Csv} is not there", $"Looked for {path}. Put it there and resume the run.");
        }
        if (settings.Into.Mode == LoadMode.Upsert && settings.Into.Key.Count == 0) { return AttemptResult.Fail("setting", "mode upsert needs “key”: the columns that tell rows apart"); }
        var (connection, failure) = SqliteTarget.Open(settings.Into.Connection, context);
        if (connection is null) { return failure!; }
        using (connection)
        using (SqliteTarget.InterruptOn(connection, cancel))
        {
            return new LoadWork(settings, context, connection, path, cancel).Run();
        }
    }
}
