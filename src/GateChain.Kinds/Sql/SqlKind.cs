using System.Data.Common;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Expressions;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Data;
using GateChain.Kinds.Databases;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Sql;

/// <summary>Runs SQL in one transaction.</summary>
public sealed class SqlKind : StepKind<SqlSettings>
{
    public override KindDescription Description => Described;

    /// <summary>What the core knows of it; there without an instance.</summary>
    public static KindDescription Described { get; } =
        new(
            "sql",
            "Runs SQL statements in one transaction and takes a result.",
            SettingsShape.Of<SqlSettings>(),
            new Dictionary<string, CelType>
            {
                ["value"] = CelType.Dyn,
                ["row"] = CelType.Map(CelType.String, CelType.Dyn),
                ["rows"] = CelType.List(CelType.Map(CelType.String, CelType.Dyn)),
                ["affected"] = CelType.Int,
            }
        )
        {
            Tells = "{query}",
            Data = s =>
                s["connection"] is { } connection && s.Content("query") is { } query
                    ? SqlTables.Of(connection, query)
                    : [],
            Purpose = KindPurpose.Data,
            Sample = new Dictionary<string, Value>
            {
                ["value"] = Value.Int(0),
                ["row"] = Value.EmptyMap,
                ["rows"] = Value.EmptyList,
                ["affected"] = Value.Int(0),
            },
        };

    protected override ValueTask<AttemptResult> RunAsync(
        SqlSettings settings,
        AttemptContext context,
        CancellationToken cancel
    ) =>
        OnThread(
            () => Work(settings, context, cancel),
            e =>
                cancel.IsCancellationRequested && e is DbException or OperationCanceledException
                    ? new(
                        "stopped",
                        settings.Alone
                            ? "the statement was ended early; what it had done stays done"
                            : "the statement was ended early; nothing was changed"
                    )
                    : Dialects.Error(e, settings.Connection)
        );

    static AttemptResult Work(SqlSettings settings, AttemptContext context, CancellationToken cancel)
    {
        if (context.Read(settings.Query) is not { } text)
        {
            return AttemptResult.Fail(
                "no-file",
                $"the attachment “{settings.Query.File}” is missing",
                "Push the workspace with the file beside the chain."
            );
        }
        if (settings is { Alone: true, Once: true })
        {
            return AttemptResult.Fail(
                "setting",
                "“once” marks the work in its transaction, and “alone” has none",
                "Leave one of them out."
            );
        }
        using var session = Session.Open(settings.Connection, context, cancel);
        if (settings.Alone)
            return new(Execute(session, null, text, settings, context));
        var marks = new WorkMarks(session, context.WorkKey.ToString(), context.Time);
        if (settings.Once)
            marks.Prepare();
        using var transaction = session.Begin();
        if (settings.Once && marks.Find(transaction) is { Done: true } mark)
        {
            context.Log.Note("this work is marked as done in the database already; it is not repeated");
            return new(ValueJson.TryParse(mark.Result ?? "{}") ?? Value.EmptyMap);
        }
        var outputs = Execute(session, transaction, text, settings, context);
        if (settings.Once)
            marks.Finish(transaction, ValueJson.ToText(outputs, plain: false));
        if (cancel.IsCancellationRequested)
            return AttemptResult.Fail("stopped", "ended early; nothing was changed");
        transaction.Commit();
        return new(outputs);
    }

    static Value Execute(
        Session session,
        DbTransaction? transaction,
        string text,
        SqlSettings settings,
        AttemptContext context
    )
    {
        using var command = session.Command(transaction, text, settings.Bind);
        using var interrupt = session.InterruptOn(command);
        var rows = new List<Value>();
        using var reader = Read(command);
        do
        {
            if (reader.FieldCount == 0)
                continue;
            rows.Clear();
            if (settings.Give is SqlGive.Row or SqlGive.Rows)
                NamesMustDiffer(reader);
            var most = settings.Give switch
            {
                SqlGive.Rows => settings.MaxRows,
                SqlGive.None => 0,
                _ => 1,
            };
            while (reader.Read() && (settings.Give == SqlGive.Rows || rows.Count < most))
            {
                if (rows.Count == most)
                {
                    throw new StepFailedException(
                        "rows",
                        $"the query gives more than {most} rows",
                        "Take fewer, or raise maxRows."
                    );
                }
                rows.Add(
                    settings.Give == SqlGive.Scalar
                        ? Column(reader, 0, settings.Numbers)
                        : Row(reader, settings.Numbers)
                );
            }
        } while (reader.NextResult());
        var affected = Math.Max(0, reader.RecordsAffected);
        context.Log.Note(
            $"{affected} rows changed{(settings.Give == SqlGive.None ? "" : $", {rows.Count} rows taken")}"
        );
        var outputs = new List<KeyValuePair<string, Value>> { new("affected", Value.Int(affected)) };
        switch (settings.Give)
        {
            case SqlGive.Scalar:
                outputs.Add(new("value", rows.Count == 0 ? Value.Null : rows[0]));
                break;
            case SqlGive.Row:
                outputs.Add(new("row", rows.Count == 0 ? Value.EmptyMap : rows[0]));
                break;
            case SqlGive.Rows:
                outputs.Add(new("rows", Value.List(rows)));
                break;
            default:
                break;
        }
        return Value.Map(DictionaryMap.Of(outputs));
    }

    // A mistake of the chain, said in its words.
    static DbDataReader Read(DbCommand command)
    {
        try
        {
            return command.ExecuteReader();
        }
        catch (InvalidOperationException e)
            when (e.Message.StartsWith("Must add values for the following parameters: ", StringComparison.Ordinal))
        {
            var names = e.Message["Must add values for the following parameters: ".Length..];
            throw new StepFailedException(
                "setting",
                $"the query uses {names}, and bind does not give "
                    + $"{(names.Contains(',', StringComparison.Ordinal) ? "them" : "it")}",
                $"Add it: bind: {{ {names.Split(',')[0].Trim().TrimStart('$', '@', ':')}: … }}. Nothing was changed."
            );
        }
    }

    static Value Row(DbDataReader reader, NumberRule rule) =>
        Value.Map(
            DictionaryMap.Of(
                Enumerable
                    .Range(0, reader.FieldCount)
                    .Select(i => KeyValuePair.Create(reader.GetName(i), Column(reader, i, rule)))
            )
        );

    // A row is a map: of two columns with one name only one would be seen.
    static void NamesMustDiffer(DbDataReader reader)
    {
        if (
            Enumerable.Range(0, reader.FieldCount).GroupBy(reader.GetName).FirstOrDefault(g => g.Count() > 1) is
            { Key: var twice }
        )
        {
            throw new StepFailedException(
                "columns",
                $"the query gives two columns that are named “{twice}”",
                "Give one of them another name: … AS other. What was done is undone."
            );
        }
    }

    static Value Column(DbDataReader reader, int column, NumberRule rule)
    {
        try
        {
            return Dialect.FromColumn(reader.GetValue(column), rule);
        }
        // The driver has no type for it: months, years before the first, lists with nothing in them, very many digits.
        catch (Exception e)
            when (e
                    is InvalidCastException
                        or ArgumentException
                        or OverflowException
                        or FormatException
                        or NotSupportedException
            )
        {
            throw new StepFailedException(
                "type",
                $"column “{reader.GetName(column)}” ({reader.GetDataTypeName(column)}) holds a value that "
                    + $"can't be taken: {e.Message.Split('\n')[0]}",
                "Have it given as a text: CAST(… AS VARCHAR). What was done is undone."
            );
        }
    }
}
