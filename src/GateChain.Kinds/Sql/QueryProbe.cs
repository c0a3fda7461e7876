using GateChain.Core.Chains.Kinds;
using GateChain.Core.Expressions;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Databases;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Sql;

/// <summary>What a <c>query</c> probe asks.</summary>
public sealed record QueryProbeSettings
{
    [Setting("The database connection.", Required = true, Connection = DatabaseTypes.All)]
    public string Connection { get; init; } = "";

    [Setting("A query; its first row is what is seen. It is undone at the end, whatever it does.", Required = true)]
    public string Query { get; init; } = "";

    [Setting("Values for the parameters that the query writes as `$name`.", Expression = true)]
    public IReadOnlyDictionary<string, Value> Bind { get; init; } = new Dictionary<string, Value>();
}

/// <summary>Sees what a query gives.</summary>
public sealed class QueryProbe : Probe<QueryProbeSettings>
{
    public override KindDescription Description => Described;

    /// <summary>What the core knows of it; there without an instance.</summary>
    public static KindDescription Described { get; } =
        new(
            "query",
            "Sees the first row of a query.",
            SettingsShape.Of<QueryProbeSettings>(),
            ProbeResult.Outputs(
                ("value", CelType.Dyn),
                ("row", CelType.Map(CelType.String, CelType.Dyn)),
                ("found", CelType.Bool)
            )
        )
        {
            Sample = ProbeResult.Sample(("value", Value.Int(1)), ("row", Value.EmptyMap), ("found", Value.True)),
        };

    protected override async ValueTask<Value> LookAsync(
        QueryProbeSettings settings,
        ProbeContext context,
        CancellationToken cancel
    ) =>
        await Task
            .Factory.StartNew(
                () => Look(settings, context, cancel),
                CancellationToken.None,
                TaskCreationOptions.LongRunning,
                TaskScheduler.Default
            )
            .ConfigureAwait(false);

    static Value Look(QueryProbeSettings settings, ProbeContext context, CancellationToken cancel)
    {
        try
        {
            using var session = Session.Open(
                settings.Connection,
                context.Connections,
                context.Folders.For(context.WorkFolder, context.Secrets),
                _ => { },
                cancel
            );
            using var transaction = session.Begin();
            using var command = session.Command(transaction, settings.Query, settings.Bind);
            using var interrupt = session.InterruptOn(command);
            using var reader = command.ExecuteReader();
            if (!reader.Read())
                return ProbeResult.Seen(("value", Value.Null), ("row", Value.EmptyMap), ("found", Value.False));
            var row = Value.Map(
                DictionaryMap.Of(
                    Enumerable
                        .Range(0, reader.FieldCount)
                        .Select(i => KeyValuePair.Create(reader.GetName(i), Dialect.FromColumn(reader.GetValue(i))))
                )
            );
            return ProbeResult.Seen(
                ("value", Dialect.FromColumn(reader.GetValue(0))),
                ("row", row),
                ("found", Value.True)
            );
        }
        catch (StepFailedException e)
        {
            return ProbeResult.Failed(e.Message);
        }
        catch (System.Data.Common.DbException e)
        {
            return ProbeResult.Failed(Dialects.Error(e, settings.Connection)?.Message ?? e.Message);
        }
    }
}
