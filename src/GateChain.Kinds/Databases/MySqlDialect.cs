using System.Data.Common;
using System.Net.Sockets;
using System.Text.RegularExpressions;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Running.Events;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Data;
using GateChain.Kinds.Settings;
using MySqlConnector;

namespace GateChain.Kinds.Databases;

/// <summary>MySQL from version 8 on, and MariaDB from 10.5 on.</summary>
sealed partial class MySqlDialect : Dialect
{
    public override string Type => "mysql";
    public override string Doc => "A MySQL (from 8.0 on) or MariaDB (from 10.5 on) database.";
    public override SettingShape Settings { get; } = SettingsShape.Of<MySqlSettings>();
    public override string VersionQuery =>
        "SELECT concat(if(version() LIKE '%Maria%', 'MariaDB ', 'MySQL '), version())";
    public override string TablesQuery => TablesOf("database()");
    public override bool DdlCommits => true;

    public override bool IsDeadlock(DbException e) => e is MySqlException { ErrorCode: MySqlErrorCode.LockDeadlock };

    // Byte by byte: a collation takes many texts for the same.
    public override string Same(string a, string b) => $"BINARY {a} <=> BINARY {b}";

    public override string Quote(string name) => "`" + name.Replace("`", "``", StringComparison.Ordinal) + "`";

    public override async Task<DbConnection> OpenAsync(
        Connection connection,
        ConnectionUse use,
        Action<string> notice,
        CancellationToken cancel
    )
    {
        var settings = connection.As<MySqlSettings>(use.Secrets);
        if (settings is { Bulk: true, TlsRule: Tls.Off, IsHere: false })
        {
            throw new FormatException(
                "bulk: true needs TLS, for the server is asked to take what this machine sends it"
            );
        }
        var mysql = new MySqlConnection(
            new MySqlConnectionStringBuilder
            {
                Server = settings.Host,
                Port = (uint)(settings.Port ?? 3306),
                Database = settings.Database,
                UserID = settings.User,
                Password = settings.Password,
                ConnectionTimeout = (uint)Math.Max(1, settings.ConnectTimeout.TotalSeconds),
                DefaultCommandTimeout = 0,
                Pooling = false,
                ApplicationName = "Gate Chain",
                AllowUserVariables = true,
                TreatTinyAsBoolean = !use.Exact,
                AllowZeroDateTime = use.Exact,
                UseAffectedRows = false,
                DateTimeKind = MySqlDateTimeKind.Utc,
                Keepalive = 30,
                AllowLoadLocalInfile = settings.Bulk,
                SslMode = settings.TlsRule switch
                {
                    Tls.Verify => MySqlSslMode.VerifyFull,
                    Tls.Require => MySqlSslMode.Required,
                    Tls.Off => MySqlSslMode.Disabled,
                    _ => MySqlSslMode.Preferred,
                },
            }.ToString()
        );
        mysql.InfoMessage += (_, e) =>
        {
            foreach (var error in e.Errors)
                notice($"{error.Level.ToLowerInvariant()}: {error.Message}");
        };
        try
        {
            await mysql.OpenAsync(cancel).ConfigureAwait(false);
            if (use.ReadOnly)
                await OnlyReadAsync(mysql, "SET SESSION TRANSACTION READ ONLY", cancel).ConfigureAwait(false);
            return mysql;
        }
        catch
        {
            await mysql.DisposeAsync().ConfigureAwait(false);
            throw;
        }
    }

    // The server makes numbers of texts without loss.
    public override object ToRow(object? cell) =>
        cell switch
        {
            ExactNumber number => number.Text,
            double d when !double.IsFinite(d) => throw new OverflowException(
                $"the database has no number {Cells.Double(d)}"
            ),
            _ => base.ToRow(cell),
        };

    public override Func<int, object?> Cell(DbDataReader reader)
    {
        var mysql = (MySqlDataReader)reader;
        string[] types = [.. Enumerable.Range(0, reader.FieldCount).Select(reader.GetDataTypeName)];
        return column =>
            mysql.IsDBNull(column)
                ? null
                : types[column] switch
                {
                    "DECIMAL" => mysql.GetMySqlDecimal(column).ToString() is var text
                        ? ExactNumber.Read(text) ?? text
                        : null,
                    "JSON" => new JsonText(mysql.GetString(column)),
                    "DATE" when mysql.GetValue(column) is MySqlDateTime day => day.IsValidDateTime
                        ? DateOnly.FromDateTime(day.GetDateTime())
                        : $"{day.Year:0000}-{day.Month:00}-{day.Day:00}",
                    _ => mysql.GetValue(column) switch
                    {
                        // A time of day; longer ones, and those below nothing, are spans.
                        TimeSpan { Ticks: >= 0 and < TimeSpan.TicksPerDay } time => TimeOnly.FromTimeSpan(time),
                        MySqlDateTime at when at.IsValidDateTime => at.GetDateTime(),
                        MySqlDateTime at =>
                            $"{at.Year:0000}-{at.Month:00}-{at.Day:00} {at.Hour:00}:{at.Minute:00}:{at.Second:00}",
                        var value => Cells.Of(value),
                    },
                };
    }

    // Any text, whatever the database is set to.
    public override string TableOptions => " CHARACTER SET utf8mb4";

    protected override int MostDigits => 65;

    // The name of the type does not say how many digits there are.
    public override CellType? TypeOf(DbDataReader reader, int column) =>
        reader.GetFieldType(column) == typeof(ulong) ? new(CellKind.Decimal, 20)
        : base.TypeOf(reader, column) is not { } type ? null
        : type.Kind == CellKind.Decimal
        && ((MySqlDataReader)reader).GetColumnSchema()[column]
            is { NumericPrecision: { } precision, NumericScale: { } scale }
            ? new(CellKind.Decimal, precision, scale)
        : type;

    public override string TypeOf(CellType type, bool isKey) =>
        type.Kind switch
        {
            CellKind.Time => "TIME(6)",
            CellKind.Bytes => "LONGBLOB",
            CellKind.Json => "JSON",
            CellKind.Uuid => "CHAR(36)",
            _ => base.TypeOf(type, isKey),
        };

    public override string CreateStage(string stage, string table, string columns) =>
        $"CREATE TABLE {stage} ({StageLine} BIGINT NOT NULL PRIMARY KEY) AS SELECT {columns}, "
        + $"0 AS {StageLine} FROM {table} WHERE 1 = 0";

    public override string IndexKeys(string stage, IReadOnlyList<string> key) =>
        $"CREATE INDEX {stage}_keys ON {stage} ({string.Join(", ", key.Select(Quote))})";

    // Rows must not be cut or replaced by the nearest value there is, whatever the server is set to.
    public override string? RowSession => "SET SESSION sql_mode = CONCAT(@@sql_mode, ',STRICT_ALL_TABLES')";

    public override string StagesQuery(string prefix) =>
        "SELECT table_name FROM information_schema.tables WHERE table_schema = database() AND table_name "
        + $"LIKE '{prefix}%' ORDER BY table_name";

    // What all-or-nothing needs.
    public override string? NotStraight(Session session, string table)
    {
        var parts = Parts(table);
        using var command = session.Command(
            null,
            "SELECT e.transactions FROM information_schema.tables t JOIN information_schema.engines e ON "
                + "e.engine = t.engine WHERE t.table_schema = COALESCE($schema, database()) AND t.table_name = "
                + "$table",
            ("schema", parts.Count > 1 ? parts[^2] : null),
            ("table", parts[^1])
        );
        return command.ExecuteScalar() is "YES" ? null : "it is a view, or a table without transactions";
    }

    // Classes 22 and 23 are data exceptions and broken rules, 45 is what triggers signal; some have no class of their
    // own.
    protected override bool IsAboutRow(DbException e) =>
        e is MySqlException m
        && (m.SqlState is ['2', '2' or '3', ..] or ['4', '5', ..] || m.Number is 1265 or 1292 or 1364 or 1366 or 3819);

    protected override RowRefusal Tell(DbException e) =>
        new(Sentence(e), ColumnName().Match(e.Message) is { Success: true } column ? column.Groups[1].Value : null);

    // “Data too long for column 'v' at row 1”, “Incorrect integer value: 'x' for column `db`.`t`.`v` at row 1”, “Column
    // 'v' cannot be null”
    [GeneratedRegex("""[Cc]olumn (?:`[^`]*`\.)*['`]([^'`]+)['`]""", RegexOptions.CultureInvariant)]
    private static partial Regex ColumnName();

    public override string TypeOf(ColumnType? type, bool isKey) =>
        type switch
        {
            ColumnType.Double => "DOUBLE",
            ColumnType.Timestamp => "DATETIME(6)",
            null or ColumnType.String when isKey => "VARCHAR(255)",
            _ => base.TypeOf(type, isKey),
        };

    public override string Upsert(string table, IReadOnlyList<string> columns, IReadOnlyList<string> key, string rows)
    {
        var names = string.Join(", ", columns.Select(Quote));
        var others = columns
            .Where(c => !key.Contains(c))
            .DefaultIfEmpty(key[0])
            .Select(c => $"{Quote(c)} = VALUES({Quote(c)})");
        return $"INSERT INTO {table} ({names}) SELECT {names} FROM {rows} AS s ORDER BY "
            + $"{string.Join(", ", key.Select(Quote))} ON DUPLICATE KEY UPDATE {string.Join(", ", others)}";
    }

    public override StepError? Error(Exception e, string connection) =>
        e switch
        {
            MySqlException m => Error(m, connection),
            // The driver lets some of its stream's errors through as they are.
            EndOfStreamException or IOException { InnerException: SocketException } => Cut(e, connection),
            _ => null,
        };

    static StepError Cut(Exception e, string connection) =>
        Failed("cut", $"the connection “{connection}” was cut: {e.Message}", "What was not committed is undone there.");

    static StepError Error(MySqlException m, string connection) =>
        m.ErrorCode switch
        {
            MySqlErrorCode.AccessDenied or MySqlErrorCode.DatabaseAccessDenied => Failed(
                "login",
                $"“{connection}” refuses the user or the password: {m.Message}",
                "Set the secret again, or correct the user in connections.yaml."
            ),
            MySqlErrorCode.UnknownDatabase => Failed("no-database", $"“{connection}”: {m.Message}"),
            MySqlErrorCode.NoSuchTable => Failed(
                "no-table",
                m.Message,
                $"{NothingChanged} Create it, for example with a sql step before this one."
            ),
            MySqlErrorCode.DiskFull or MySqlErrorCode.RecordFileFull => Failed(
                "full",
                $"the disk of “{connection}” is full",
                $"{NothingChanged} Make room and resume."
            ),
            MySqlErrorCode.LockDeadlock or MySqlErrorCode.LockWaitTimeout => Failed(
                "locked",
                $"others were at work on the same rows: {m.Message}",
                $"{NothingChanged} A retry rule on the step repeats it automatically."
            ),
            MySqlErrorCode.QueryInterrupted => Failed("stopped", "the statement was ended early"),
            MySqlErrorCode.DuplicateKeyEntry
            or MySqlErrorCode.ColumnCannotBeNull
            or MySqlErrorCode.NoReferencedRow2
            or MySqlErrorCode.RowIsReferenced2 => Failed(
                "constraint",
                $"a rule of the database was broken: {m.Message}"
            ),
            MySqlErrorCode.UnableToConnectToHost => Failed(
                "unreachable",
                $"the server of “{connection}” can't be reached: "
                    + $"{(m.InnerException as SocketException)?.Message ?? m.Message}"
            ),
            _ when m.Message.Contains("SSL", StringComparison.Ordinal)
                    || m.InnerException is System.Security.Authentication.AuthenticationException => Failed(
                "tls",
                $"the server of “{connection}” offers no TLS that can be used: {m.Message}",
                NoTls
            ),
            _ when m.InnerException is IOException or SocketException or EndOfStreamException => Cut(m, connection),
            _ => Failed("sql", m.Message),
        };

    public override IBulkWriter? Bulk(DbConnection connection, string table, IReadOnlyList<string> columns) =>
        new MySqlConnectionStringBuilder(connection.ConnectionString).AllowLoadLocalInfile
            ? new MySqlBulk((MySqlConnection)connection, table, [.. columns.Select(Quote)])
            : null;

    public override IRowWriter Writer(
        DbConnection connection,
        DbTransaction transaction,
        string stage,
        IReadOnlyList<string> columns
    ) => new InsertWriter(this, connection, transaction, stage, columns, rowsAtOnce: 1000, mostParameters: 20_000);
}
