using System.Data.Common;
using System.Text.RegularExpressions;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Data;
using GateChain.Kinds.Settings;
using Microsoft.Data.Sqlite;
using SQLitePCL;

namespace GateChain.Kinds.Databases;

/// <summary>SQLite: a database in a file.</summary>
sealed partial class SqliteDialect : Dialect
{
    public override string Type => "sqlite";
    public override string Doc => "A SQLite database in a file.";
    public override SettingShape Settings { get; } = SettingsShape.Of<SqliteSettings>();
    public override string VersionQuery => "SELECT 'SQLite ' || sqlite_version()";
    public override string TablesQuery =>
        "SELECT NULL, name, upper(type) FROM sqlite_master "
        + "WHERE type IN ('table', 'view') AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\' ORDER BY name";
    public override string Marker => "$";

    public override async Task<DbConnection> OpenAsync(
        Connection connection,
        ConnectionUse use,
        Action<string> notice,
        CancellationToken cancel
    )
    {
        var settings = connection.As<SqliteSettings>(use.Secrets);
        var path = use.Resolve(settings.Path);
        if (Path.GetDirectoryName(path) is { } folder && !Directory.Exists(folder))
        {
            throw new DirectoryNotFoundException(
                $"the folder of connection “{connection.Name}” is not there: {folder}"
            );
        }
        var sqlite = new SqliteConnection(
            new SqliteConnectionStringBuilder
            {
                DataSource = path,
                Mode = use.ReadOnly ? SqliteOpenMode.ReadOnly : SqliteOpenMode.ReadWriteCreate,
                DefaultTimeout = Math.Max(1, (int)settings.BusyTimeout.TotalSeconds),
                Pooling = false,
            }.ToString()
        );
        try
        {
            await sqlite.OpenAsync(cancel).ConfigureAwait(false);
            using var pragmas = sqlite.CreateCommand();
            pragmas.CommandText = "PRAGMA synchronous = FULL; PRAGMA foreign_keys = ON;";
            pragmas.ExecuteNonQuery();
            Confine(sqlite, use);
            return sqlite;
        }
        catch
        {
            sqlite.Dispose();
            throw;
        }
    }

    // Statements open further files by ATTACH, and VACUUM INTO writes one by it. A VACUUM in place takes a file that
    // has no name and goes with it.
    static void Confine(SqliteConnection sqlite, ConnectionUse use)
    {
        if (use.Confine is null)
            return;
        raw.sqlite3_set_authorizer(
            sqlite.Handle!,
            (_, action, first, _, _, _) =>
            {
                if (action != raw.SQLITE_ATTACH)
                    return raw.SQLITE_OK;
                // What is computed while the statement runs is not known here.
                if (first.utf8_to_string() is not { } file)
                    return raw.SQLITE_DENY;
                if (file is "" or ":memory:")
                    return raw.SQLITE_OK;
                // An address may say more than a path.
                if (file.StartsWith("file:", StringComparison.OrdinalIgnoreCase))
                    return raw.SQLITE_DENY;
                try
                {
                    use.Resolve(file);
                    return raw.SQLITE_OK;
                }
                catch (StepFailedException)
                {
                    return raw.SQLITE_DENY;
                }
            },
            null
        );
    }

    public override CancellationTokenRegistration InterruptOn(
        DbConnection connection,
        DbCommand command,
        CancellationToken cancel
    ) => cancel.Register(() => raw.sqlite3_interrupt(((SqliteConnection)connection).Handle));

    public override StepError? Error(Exception e, string connection) =>
        e is not SqliteException sqlite
            ? null
            : sqlite.SqliteErrorCode switch
            {
                raw.SQLITE_BUSY or raw.SQLITE_LOCKED => Failed(
                    "locked",
                    $"the database of “{connection}” is locked by another program",
                    $"{NothingChanged} Try again when the other program is done, "
                        + "or raise busyTimeout of the connection; a retry rule on the step does it automatically."
                ),
                raw.SQLITE_FULL => Failed(
                    "full",
                    $"the disk of “{connection}” is full",
                    $"{NothingChanged} Make room and resume."
                ),
                raw.SQLITE_INTERRUPT => Failed("stopped", "the statement was ended early"),
                raw.SQLITE_CANTOPEN => Failed("no-database", $"the database of “{connection}” can't be opened"),
                raw.SQLITE_NOTADB => Failed("no-database", $"the file of “{connection}” is not a SQLite database"),
                raw.SQLITE_CONSTRAINT => Failed("constraint", $"a rule of the database was broken: {Short(sqlite)}"),
                _ => Failed("sql", Short(sqlite)),
            };

    static string Short(SqliteException e)
    {
        var message = e.Message;
        var start = message.IndexOf('\'', StringComparison.Ordinal);
        return start >= 0 && message.EndsWith("'.", StringComparison.Ordinal) ? message[(start + 1)..^2] : message;
    }

    // Timestamps as RFC 3339 text.
    public override object ToColumn(Value value) =>
        value.Kind switch
        {
            ValueKind.Bool => value.AsBool ? 1L : 0L,
            ValueKind.Timestamp => ValueText.ToPlainString(value),
            _ => base.ToColumn(value),
        };

    public override object ToRow(object? value) =>
        value switch
        {
            bool b => b ? 1L : 0L,
            DateTime or DateOnly or TimeOnly or TimeSpan or Guid => Cells.Text(value),
            // It has no decimals: a column of numbers makes of the text what it can hold, any other keeps all of its
            // digits.
            ExactNumber number => number.Text,
            _ => base.ToRow(value),
        };

    // It has no types for times; of decimals, a column of numbers holds 15 digits.
    public override string TypeOf(CellType type, bool isKey) =>
        type.Kind switch
        {
            CellKind.Decimal when type.Precision is > 0 and <= 15 => "NUMERIC",
            CellKind.Decimal => "TEXT",
            CellKind.Bytes => "BLOB",
            CellKind.Date or CellKind.Time or CellKind.Timestamp or CellKind.TimestampUtc => "TEXT",
            _ => base.TypeOf(type, isKey),
        };

    // A delete without a condition is the quick way there.
    public override string Truncate(string table) => $"DELETE FROM {table}";

    public override string Same(string a, string b) => $"{a} COLLATE BINARY IS {b}";

    // Without types, a stage keeps values as they are; the table gives them its own.
    public override string CreateStage(string stage, string table, string columns) =>
        $"CREATE TABLE {stage} ({columns}, {StageLine} INTEGER PRIMARY KEY)";

    // A stage has no types, so that an index of it could not be used; this form makes one with those of the table.
    public override string HasKeyOf(string table, IReadOnlyList<string> key, string rows)
    {
        var names = string.Join(", ", key.Select(Quote));
        return $"({names}) IN (SELECT {names} FROM {rows} WHERE {string.Join(" AND ", key.Select(k => $"{Quote(k)} IS "
            + "NOT NULL"))})";
    }

    public override string Moment(DateTimeOffset at) => $"'{Cells.Text(at.UtcDateTime)}'";

    public override string? AdoptStage(string stage) =>
        $"ALTER TABLE {stage} ADD COLUMN {StageLine} INTEGER; UPDATE {stage} SET {StageLine} = rowid";

    public override string StagesQuery(string prefix) =>
        $"SELECT name FROM sqlite_master WHERE type = 'table' AND name LIKE '{prefix}%' ORDER BY name";

    protected override bool IsAboutRow(DbException e) =>
        e is SqliteException { SqliteErrorCode: raw.SQLITE_CONSTRAINT or raw.SQLITE_MISMATCH or raw.SQLITE_TOOBIG };

    // “NOT NULL constraint failed: t.v”, “cannot store TEXT value in INTEGER column t.v”; of several columns none is
    // told.
    protected override RowRefusal Tell(DbException e) =>
        new(Sentence(e), ColumnName().Match(Sentence(e)) is { Success: true } column ? column.Groups[1].Value : null);

    [GeneratedRegex("""(?:constraint failed: |column )(?:\w+\.)?(\w+)$""", RegexOptions.CultureInvariant)]
    private static partial Regex ColumnName();

    public override IRowWriter Writer(
        DbConnection connection,
        DbTransaction transaction,
        string stage,
        IReadOnlyList<string> columns
    ) => new SqliteWriter(this, connection, stage, columns);
}
