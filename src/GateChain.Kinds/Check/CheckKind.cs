using GateChain.Core.Chains.Kinds;
using GateChain.Core.Datasets;
using GateChain.Core.Expressions;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Databases;
using GateChain.Kinds.FileServers;
using GateChain.Kinds.Load;
using GateChain.Kinds.Load.Sources;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Check;

/// <summary>
/// Looks at the rows of a file, a table or a query, and fails or warns where they are not as they have to be. Changes
/// nothing.
/// </summary>
public sealed class CheckKind : StepKind<CheckSettings>
{
    public override KindDescription Description => Described;

    /// <summary>What the core knows of it; there without an instance.</summary>
    public static KindDescription Described { get; } =
        new(
            "check",
            "Looks whether rows are as they have to be.",
            SettingsShape.Of<CheckSettings>(),
            new Dictionary<string, CelType>
            {
                ["rows"] = CelType.Int,
                ["failed"] = CelType.Int,
                ["warned"] = CelType.Int,
                ["checks"] = CelType.Map(CelType.String, CelType.Map(CelType.String, CelType.Dyn)),
                ["file"] = CelType.String,
            }
        )
        {
            Tells = "{of.csv|of.table|of.query|of.fixed|of.jsonl|of.json|of.xml|of.parquet|of.xlsx}",
            Data = s =>
                [
                    .. LoadData.From(s.Under("of")),
                    .. s.Each("checks").SelectMany(c => Others(c, s["of.connection"])),
                    .. LoadData.Files(s, DataDirection.Writes, null, "file"),
                    .. LoadData.Table(s.Under("into"), DataDirection.Writes),
                ],
            Purpose = KindPurpose.Data,
            Sample = new Dictionary<string, Value>
            {
                ["rows"] = Value.Int(100),
                ["failed"] = Value.Int(0),
                ["warned"] = Value.Int(0),
                ["checks"] = Value.EmptyMap,
                ["file"] = Value.String(""),
            },
        };

    // What a check compares with.
    static IEnumerable<DataUse> Others(SettingTexts check, string? connection)
    {
        if (check["refersTo.table"] is { } table && (check["refersTo.connection"] ?? connection) is { } at)
            yield return DataUse.Reads(DataForm.Table, at, table);
        if (check["sum.query"] is { } query && check["sum.connection"] is { } other)
        {
            foreach (var use in SqlTables.Of(other, query))
                yield return use;
        }
    }

    protected override ValueTask<AttemptResult> RunAsync(
        CheckSettings settings,
        AttemptContext context,
        CancellationToken cancel
    ) =>
        OnThread(
            () =>
            {
                if (settings.Checks.Count == 0)
                    return AttemptResult.Fail("setting", "“checks” has none");
                using var source = RowSources.Open(new() { From = settings.Of }, context, cancel);
                return new CheckWork(settings, context, source, cancel).Run();
            },
            e => Known(e, settings, cancel)
        );

    static StepError? Known(Exception e, CheckSettings settings, CancellationToken cancel) =>
        e switch
        {
            OperationCanceledException => new("stopped", "ended early"),
            System.Data.Common.DbException when cancel.IsCancellationRequested => new("stopped", "ended early"),
            _ when Dialects.Error(e, settings.Of.Connection) is { } known => known,
            _ when FileServer.Error(e) is { } known => known,
            IOException or UnauthorizedAccessException => new("file", e.Message),
            _ => null,
        };
}
