using System.Data.Common;
using System.Globalization;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Data;

namespace GateChain.Kinds.Databases;

/// <summary>What one type of database has of its own; the rest is the same for all. Immutable.</summary>
abstract class Dialect
{
    /// <summary>The word after <c>type:</c>, and its doc.</summary>
    public abstract string Type { get; }
    public abstract string Doc { get; }
    public abstract SettingShape Settings { get; }

    /// <summary>Opens a connection of its own: not pooled, so that nothing of an attempt is left to the next.</summary>
    /// <param name="connection">The address.</param>
    /// <param name="use">What is needed to go there.</param>
    /// <param name="notice">Takes what the server has to say beside its answers.</param>
    /// <param name="cancel">Gives up.</param>
    public abstract Task<DbConnection> OpenAsync(
        Connection connection,
        ConnectionUse use,
        Action<string> notice,
        CancellationToken cancel
    );

    /// <summary>Tells a server that nothing may be changed by this connection.</summary>
    protected static async Task OnlyReadAsync(DbConnection connection, string sql, CancellationToken cancel)
    {
        using var command = connection.CreateCommand();
        command.CommandText = sql;
        await command.ExecuteNonQueryAsync(cancel).ConfigureAwait(false);
    }

    /// <summary>A query that gives the server's version as a text.</summary>
    public abstract string VersionQuery { get; }

    /// <summary>
    /// A query for all tables and views: the schema, null for the one that a name alone stands for; the name; and
    /// <c>VIEW</c> for a view.
    /// </summary>
    public virtual string TablesQuery => TablesOf("current_schema()");

    /// <summary>The same from the catalogue that the SQL standard has.</summary>
    protected static string TablesOf(string usual) =>
        $"SELECT CASE WHEN table_schema = {usual} THEN NULL ELSE table_schema END, table_name, table_type "
        + "FROM information_schema.tables "
        + "WHERE table_schema NOT IN ('information_schema', 'pg_catalog', 'mysql', 'performance_schema', 'sys') "
        + $"ORDER BY CASE WHEN table_schema = {usual} THEN 0 ELSE 1 END, table_schema, table_name";

    /// <summary>
    /// How a failure is told: a code of ours, a sentence, and what to do; null for an exception of something else.
    /// </summary>
    public abstract StepError? Error(Exception e, string connection);

    public virtual string Quote(string name) => "\"" + name.Replace("\"", "\"\"", StringComparison.Ordinal) + "\"";

    /// <summary>A table's name with each of its parts quoted: <c>staging.pickups</c>.</summary>
    /// <remarks>A name with a point in it is written in quotes: <c>staging."pickups.2026"</c>.</remarks>
    public string QuoteTable(string table) => string.Join('.', Parts(table).Select(Quote));

    /// <summary>The parts of a table's name.</summary>
    protected static List<string> Parts(string table)
    {
        var parts = new List<string> { "" };
        var quoted = false;
        foreach (var c in table)
        {
            if (c == '"')
                quoted = !quoted;
            else if (c == '.' && !quoted)
                parts.Add("");
            else
                parts[^1] += c;
        }
        return parts;
    }

    /// <summary>What stands before the name of a parameter.</summary>
    public virtual string Marker => "@";

    /// <summary>What the driver calls a parameter.</summary>
    public virtual string ParameterName(string name) => Marker + name;

    /// <summary>What it says of a row that it does not take; null when the failure is about something else.</summary>
    public RowRefusal? Refusal(Exception e) =>
        e switch
        {
            DbException refused when IsAboutRow(refused) => Tell(refused),
            NotTakenException => new(e.Message),
            // The driver can't write a value: half of a sign, a time beyond what it knows.
            ArgumentException or OverflowException => new(e.Message),
            _ => null,
        };

    /// <summary>
    /// Whether a failure is about the values of a row: a length, a range, a rule of the table, a trigger that refuses.
    /// </summary>
    protected abstract bool IsAboutRow(DbException e);

    protected virtual RowRefusal Tell(DbException e) => new(Sentence(e));

    /// <summary>A failure in one line.</summary>
    protected string Sentence(DbException e) =>
        Error(e, "") is { } error
            ? error.Detail is { Length: > 0 } detail
                ? $"{error.Message} ({detail})"
                : error.Message
            : e.Message;

    /// <summary>Whether a part of a transaction can be taken back.</summary>
    public virtual bool HasSavepoints => true;

    /// <summary>
    /// Whether a load may write straight into a table in one long transaction: null when it may, else why not.
    /// </summary>
    public virtual string? NotStraight(Session session, string table) =>
        "a long transaction would keep all others from writing";

    /// <summary>
    /// Whether the server has ended a transaction because it and another waited for each other: done again, it may go
    /// through.
    /// </summary>
    public virtual bool IsDeadlock(DbException e) => false;

    /// <summary>Whether a change of tables ends the transaction it stands in.</summary>
    public virtual bool DdlCommits => false;

    /// <summary>Makes cancelling reach the server while a statement is running.</summary>
    public virtual CancellationTokenRegistration InterruptOn(
        DbConnection connection,
        DbCommand command,
        CancellationToken cancel
    ) =>
        cancel.Register(() =>
        {
            try
            {
                command.Cancel();
            }
            catch (Exception e) when (e is DbException or InvalidOperationException)
            {
                // It has ended meanwhile.
            }
        });

    /// <summary>The type of a column that is created.</summary>
    /// <param name="type">What its values are; a text when nobody said.</param>
    /// <param name="isKey">Whether it is a part of the key; some databases want a length then.</param>
    public virtual string TypeOf(ColumnType? type, bool isKey) =>
        type switch
        {
            ColumnType.Int => "BIGINT",
            ColumnType.Double => "DOUBLE PRECISION",
            ColumnType.Bool => "BOOLEAN",
            ColumnType.Timestamp => "TIMESTAMP",
            _ => "TEXT",
        };

    /// <summary>
    /// The type of a column that is created for what a source has; a text for what the database has no exact type for.
    /// </summary>
    public virtual string TypeOf(CellType type, bool isKey) =>
        type.Kind switch
        {
            CellKind.Int => TypeOf(ColumnType.Int, isKey),
            CellKind.Double => TypeOf(ColumnType.Double, isKey),
            CellKind.Bool => TypeOf(ColumnType.Bool, isKey),
            CellKind.Timestamp or CellKind.TimestampUtc => TypeOf(ColumnType.Timestamp, isKey),
            CellKind.Decimal when type.Precision > 0 && type.Precision <= MostDigits =>
                $"DECIMAL({type.Precision}, {type.Scale})",
            CellKind.Date => "DATE",
            CellKind.Time => "TIME",
            _ => TypeOf(ColumnType.String, isKey),
        };

    /// <summary>What stands behind the columns of a table that is created.</summary>
    public virtual string TableOptions => "";

    /// <summary>How many digits its decimals may have.</summary>
    protected virtual int MostDigits => 38;

    /// <summary>A cell of a row as the driver takes it. No number passes through a binary one.</summary>
    public virtual object ToRow(object? cell) =>
        cell switch
        {
            null => DBNull.Value,
            ExactNumber number => number.Decimal ?? (object)number.Text,
            JsonText json => json.Text,
            _ => cell,
        };

    /// <summary>What a session says first that rows are read or written in; null for nothing.</summary>
    public virtual string? RowSession => null;

    /// <summary>
    /// A query as it is sent to read its rows from: where the driver has no type for a column, it is asked for in
    /// another form.
    /// </summary>
    /// <param name="session">Where it is sent to.</param>
    public virtual string ReadableQuery(Session session, string query, IEnumerable<KeyValuePair<string, Value>> bind) =>
        query;

    /// <summary>Prepares a statement whose rows are read.</summary>
    public virtual void BeforeRead(DbCommand command) { }

    /// <summary>Reads a column of the row at hand as a cell.</summary>
    public virtual Func<int, object?> Cell(DbDataReader reader) =>
        column => reader.IsDBNull(column) ? null : Cells.Of(reader.GetValue(column));

    /// <summary>The type of a column of a result; null when there is none of ours.</summary>
    public virtual CellType? TypeOf(DbDataReader reader, int column) => CellType.Of(reader.GetDataTypeName(column));

    /// <summary>
    /// The column of a stage that holds the place of a row in the source: rows are in its order, and told by it.
    /// </summary>
    public const string StageLine = "gatechain_line";

    /// <summary>
    /// What the database itself calls the type of a column of a result, for a table that is made in another database
    /// like it; null where it does not say enough.
    /// </summary>
    public virtual string? OwnTypeOf(DbDataReader reader, int column) => null;

    /// <summary>Creates a stage with the columns of a table, and that of the line.</summary>
    public virtual string CreateStage(string stage, string table, string columns) =>
        $"CREATE TABLE {stage} AS SELECT {columns}, CAST(0 AS BIGINT) AS {Quote(StageLine)} FROM {table} WHERE 1 = 0";

    /// <summary>Makes a stage quick to ask by line, within a transaction; null where it is.</summary>
    public virtual string? IndexStage(string stage) => null;

    /// <summary>Makes a stage quick to ask by key, outside of transactions; null where the database does it itself.
    /// </summary>
    public virtual string? IndexKeys(string stage, IReadOnlyList<string> key) => null;

    /// <summary>A condition for rows of a table: some other rows have the same key.</summary>
    /// <param name="rows">The others: a table, or a query in brackets.</param>
    public virtual string HasKeyOf(string table, IReadOnlyList<string> key, string rows) =>
        $"EXISTS (SELECT 1 FROM {rows} AS s WHERE "
        + $"{string.Join(" AND ", key.Select(k => $"s.{Quote(k)} = {table}.{Quote(k)}"))})";

    /// <summary>A moment as it is written in a statement, for a column with times in UTC.</summary>
    public virtual string Moment(DateTimeOffset at) =>
        $"'{at.UtcDateTime.ToString("yyyy-MM-dd HH:mm:ss.ffffff", CultureInfo.InvariantCulture)}'";

    /// <summary>A query for the names of tables that begin with a text of plain letters.</summary>
    public virtual string StagesQuery(string prefix) =>
        $"SELECT table_name FROM information_schema.tables WHERE table_name LIKE '{prefix}%' ORDER BY table_name";

    /// <summary>
    /// Gives a stage of an older version, which has no lines, its lines; null where it can't, and the load begins
    /// again.
    /// </summary>
    public virtual string? AdoptStage(string stage) => null;

    /// <summary>What empties a table quickly.</summary>
    public virtual string Truncate(string table) => $"TRUNCATE TABLE {table}";

    /// <summary>A condition: two columns hold the same, absent values included.</summary>
    public virtual string Same(string a, string b) => $"{a} IS NOT DISTINCT FROM {b}";

    /// <summary>Takes out of a stage all but the last row of each key.</summary>
    public string DropSuperseded(IReadOnlyList<string> key, string stage)
    {
        var line = Quote(StageLine);
        return $"DELETE FROM {stage} WHERE {line} IN (SELECT {line} FROM (SELECT {line}, "
            + $"row_number() OVER (PARTITION BY {string.Join(", ", key.Select(Quote))} ORDER BY {line} DESC) AS "
            + $"nth FROM {stage}) AS d WHERE nth > 1)";
    }

    /// <summary>
    /// What brings rows of a stage, with one row for each key, into a table whose keys tell rows apart.
    /// </summary>
    /// <param name="rows">The rows: the stage, or a query in brackets.</param>
    public virtual string Upsert(string table, IReadOnlyList<string> columns, IReadOnlyList<string> key, string rows)
    {
        var names = string.Join(", ", columns.Select(Quote));
        var others = columns.Where(c => !key.Contains(c)).Select(c => $"{Quote(c)} = excluded.{Quote(c)}").ToList();
        // "WHERE true" tells the parser that ON CONFLICT belongs to the insert.
        // In the order of the keys: two at once then never wait for each other.
        return $"INSERT INTO {table} ({names}) SELECT {names} FROM {rows} AS s WHERE true ORDER BY "
            + $"{string.Join(", ", key.Select(Quote))} ON CONFLICT ({string.Join(", ", key.Select(Quote))}) "
            + $"{(others.Count == 0 ? "DO NOTHING" : "DO UPDATE SET " + string.Join(", ", others))}";
    }

    /// <summary>Whether an array is read from a text such as <c>{1,2}</c>.</summary>
    public virtual bool ReadsArrays => false;

    /// <summary>A parameter with a value.</summary>
    public virtual DbParameter Parameter(DbCommand command, string name, Value value)
    {
        var parameter = command.CreateParameter();
        parameter.ParameterName = ParameterName(name);
        parameter.Value = ToColumn(value);
        return parameter;
    }

    /// <summary>A value as the database takes it; lists and maps as JSON.</summary>
    public virtual object ToColumn(Value value) =>
        value.Kind switch
        {
            ValueKind.Null => DBNull.Value,
            ValueKind.Bool => value.AsBool,
            ValueKind.Int => value.AsInt,
            ValueKind.Uint => checked((long)value.AsUint),
            ValueKind.Double => value.AsDouble,
            ValueKind.Decimal => ToRow(new ExactNumber(value.AsDecimal.ToString())),
            ValueKind.Bytes => value.AsBytes,
            ValueKind.Timestamp => value.AsDateTimeOffset.UtcDateTime,
            ValueKind.List or ValueKind.Map => ValueJson.ToText(value),
            ValueKind.Optional => ToColumn(value.Inner),
            _ => ValueText.ToPlainString(value),
        };

    /// <summary>
    /// A column's value as expressions take it. A time without a zone counts as UTC; a decimal is what the rule says,
    /// what has no type of ours a text.
    /// </summary>
    public static Value FromColumn(object column, NumberRule rule = NumberRule.Near) =>
        column switch
        {
            DBNull => Value.Null,
            bool b => Value.Bool(b),
            long n => Value.Int(n),
            int or short or sbyte or byte or ushort or uint => Value.Int(
                Convert.ToInt64(column, CultureInfo.InvariantCulture)
            ),
            ulong
            or decimal
            or System.Numerics.BigInteger
            or ExactNumber when rule == NumberRule.Exact && Decimal38.Parse(Cells.Text(column)) is { } exact => column
                is not decimal
                    and not ExactNumber
            && exact.Whole >= long.MinValue
            && exact.Whole <= long.MaxValue
                ? Value.Int((long)exact.Whole)
                : Value.Decimal(exact),
            ulong n => n <= long.MaxValue ? Value.Int((long)n) : Value.Double(n),
            decimal m => decimal.IsInteger(m) && m is >= long.MinValue and <= long.MaxValue && m.Scale == 0
                ? Value.Int((long)m)
                : Value.Double((double)m),
            System.Numerics.BigInteger big => big >= long.MinValue && big <= long.MaxValue
                ? Value.Int((long)big)
                : Value.Double((double)big),
            float f => Value.Double(f),
            double d => Value.Double(d),
            string s => Value.String(s),
            byte[] b => Value.Bytes(b),
            DateTime t => Value.Timestamp(
                new DateTimeOffset(
                    t.Kind == DateTimeKind.Local ? t.ToUniversalTime() : DateTime.SpecifyKind(t, DateTimeKind.Utc)
                )
            ),
            DateTimeOffset t => Value.Timestamp(t),
            DateOnly d => Value.Timestamp(new DateTimeOffset(d.ToDateTime(TimeOnly.MinValue, DateTimeKind.Utc))),
            TimeSpan t => Value.Duration(t),
            TimeOnly t => Value.String(Cells.Text(t)),
            Array list => Value.List([
                .. list.Cast<object?>().Select(i => i is null ? Value.Null : FromColumn(i, rule)),
            ]),
            ExactNumber n => n.Whole is { } whole && whole >= long.MinValue && whole <= long.MaxValue
                ? Value.Int((long)whole)
                : Value.Double(n.Double),
            // Lists, structs and streams of drivers, as what they hold and never as the name of a class.
            _ => Cells.Of(column) switch
            {
                byte[] bytes => Value.Bytes(bytes),
                JsonText json => ValueJson.TryParse(json.Text, exact: rule == NumberRule.Exact)
                    ?? Value.String(json.Text),
                var other => Value.String(Cells.Text(other)),
            },
        };

    /// <summary>How rows get into a stage; the rows are on the server when it is disposed of.</summary>
    public virtual IRowWriter Writer(
        DbConnection connection,
        DbTransaction transaction,
        string stage,
        IReadOnlyList<string> columns
    ) => new InsertWriter(this, connection, transaction, stage, columns, rowsAtOnce: 200);

    /// <summary>
    /// The database's own way in for many rows at once; null where there is none, or the connection does not allow it.
    /// </summary>
    public virtual IBulkWriter? Bulk(DbConnection connection, string table, IReadOnlyList<string> columns) => null;

    protected static StepError Failed(string code, string message, string? detail = null) => new(code, message, detail);

    protected const string NothingChanged = "Nothing was changed.";
    protected const string NoTls =
        "Have TLS set up on the server. In a network that nobody else can listen in, say tls: off to the connection.";
}
