using GateChain.Core.Chains.Kinds;
using GateChain.Core.Expressions;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Databases;
using GateChain.Kinds.Files;
using GateChain.Kinds.FileServers;
using GateChain.Kinds.Load.Sources;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Load;

/// <summary>
/// Loads rows from a file, a table or a query into a table or a file. Rows are streamed; the target changes at the end,
/// all at once.
/// </summary>
public sealed class LoadKind : StepKind<LoadSettings>
{
    public override KindDescription Description => Described;

    /// <summary>What the core knows of it; there without an instance.</summary>
    public static KindDescription Described { get; } =
        new(
            "load",
            "Loads rows from a file or a database into a table or a file, exactly once.",
            SettingsShape.Of<LoadSettings>(),
            new Dictionary<string, CelType>
            {
                ["rows_read"] = CelType.Int,
                ["rows_written"] = CelType.Int,
                ["rows_rejected"] = CelType.Int,
                ["rows_unchanged"] = CelType.Int,
                ["rows_gone"] = CelType.Int,
                ["new_columns"] = CelType.List(CelType.String),
                ["since"] = CelType.Dyn,
                ["reject_file"] = CelType.String,
            }
        )
        {
            Tells =
                "{from.csv|from.table|from.query|from.fixed|from.jsonl|from.json|from.xml|from.parquet|from.xlsx}"
                + " → {into.table|into.csv|into.jsonl|into.parquet}",
            Data = LoadData.Of,
            Purpose = KindPurpose.Data,
            Sample = new Dictionary<string, Value>
            {
                ["rows_read"] = Value.Int(100),
                ["rows_written"] = Value.Int(100),
                ["rows_rejected"] = Value.Int(0),
                ["rows_unchanged"] = Value.Int(0),
                ["rows_gone"] = Value.Int(0),
                ["new_columns"] = Value.List([]),
                ["since"] = Value.Null,
                ["reject_file"] = Value.String(""),
            },
        };

    protected override ValueTask<AttemptResult> RunAsync(
        LoadSettings settings,
        AttemptContext context,
        CancellationToken cancel
    ) => OnThread(() => Work(settings, context, cancel), e => Known(e, settings, cancel));

    static StepError? Known(Exception e, LoadSettings settings, CancellationToken cancel) =>
        e switch
        {
            OperationCanceledException => new("stopped", "ended early; the target is as it was"),
            System.Data.Common.DbException when cancel.IsCancellationRequested => new(
                "stopped",
                "ended early; the target is as it was"
            ),
            _ when Dialects.Error(e, settings.Into.Connection ?? settings.From.Connection) is { } known => known,
            _ when FileServer.Error(e) is { } known => known,
            IOException io when Disk.IsFull(io) => new(
                "full",
                $"the disk is full: {io.Message}",
                "The target is as it was. Make room and resume."
            ),
            IOException or UnauthorizedAccessException => new("file", e.Message),
            _ => null,
        };

    const int Tries = 3;

    static AttemptResult Work(LoadSettings settings, AttemptContext context, CancellationToken cancel)
    {
        for (var nth = 1; ; nth++)
        {
            using var source = RowSources.Open(settings, context, cancel);
            try
            {
                var (loaded, news) = NewColumns.Settle(settings, source, context, cancel);
                var result = new LoadWork(loaded, news, context, source, cancel).Run();
                FetchedFiles.Remove(context);
                return result;
            }
            // Nothing of it is there: the server has ended it because another waited for it, and it for the other.
            catch (System.Data.Common.DbException e) when (nth < Tries && Dialects.All.Any(d => d.IsDeadlock(e)))
            {
                context.Log.Note($"others were at work on the same rows; the load begins again ({nth} of {Tries - 1})");
                // Two that begin again at once would meet again.
                cancel.WaitHandle.WaitOne(Random.Shared.Next(20, 200 * nth));
            }
        }
    }
}
