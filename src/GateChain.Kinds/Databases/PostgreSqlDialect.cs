using System.Data.Common;
using System.Globalization;
using System.Net.Sockets;
using System.Text.RegularExpressions;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Data;
using GateChain.Kinds.Settings;
using Npgsql;
using NpgsqlTypes;

namespace GateChain.Kinds.Databases;

/// <summary>PostgreSQL, from version 13 on.</summary>
sealed partial class PostgreSqlDialect : Dialect
{
    public override string Type => "postgresql";
    public override string Doc => "A PostgreSQL database, from version 13 on.";
    public override SettingShape Settings { get; } = SettingsShape.Of<ServerSettings>();
    public override string VersionQuery => "SELECT 'PostgreSQL ' || current_setting('server_version')";

    public override async Task<DbConnection> OpenAsync(
        Connection connection,
        ConnectionUse use,
        Action<string> notice,
        CancellationToken cancel
    )
    {
        var settings = connection.As<ServerSettings>(use.Secrets);
        var npgsql = new NpgsqlConnection(
            new NpgsqlConnectionStringBuilder
            {
                Host = settings.Host,
                Port = settings.Port ?? 5432,
                Database = settings.Database,
                Username = settings.User,
                Password = settings.Password,
                Timeout = Math.Max(1, (int)settings.ConnectTimeout.TotalSeconds),
                CommandTimeout = 0,
                Pooling = false,
                ApplicationName = "Gate Chain",
                KeepAlive = 30,
                IncludeErrorDetail = true,
                SslMode = settings.TlsRule switch
                {
                    Tls.Verify => SslMode.VerifyFull,
                    Tls.Require => SslMode.Require,
                    Tls.Off => SslMode.Disable,
                    _ => SslMode.Prefer,
                },
            }.ToString()
        );
        npgsql.Notice += (_, e) => notice($"{e.Notice.Severity.ToLowerInvariant()}: {e.Notice.MessageText}");
        try
        {
            await npgsql.OpenAsync(cancel).ConfigureAwait(false);
            if (use.ReadOnly)
            {
                await OnlyReadAsync(
                        npgsql,
                        "SET default_transaction_read_only = on; SET statement_timeout = 10000",
                        cancel
                    )
                    .ConfigureAwait(false);
            }
            return npgsql;
        }
        catch
        {
            await npgsql.DisposeAsync().ConfigureAwait(false);
            throw;
        }
    }

    public override string TypeOf(ColumnType? type, bool isKey) =>
        type == ColumnType.Timestamp ? "TIMESTAMPTZ" : base.TypeOf(type, isKey);

    protected override int MostDigits => 1000;

    public override string TypeOf(CellType type, bool isKey) =>
        type.Kind switch
        {
            CellKind.Timestamp => "TIMESTAMP",
            CellKind.Bytes => "BYTEA",
            CellKind.Uuid => "UUID",
            CellKind.Json => "JSON",
            CellKind.Decimal when type.Precision == 0 => "NUMERIC",
            _ => base.TypeOf(type, isKey),
        };

    public override bool ReadsArrays => true;

    // The server finds out the type of a text by where it stands.
    public override DbParameter Parameter(DbCommand command, string name, Value value)
    {
        var column = ToColumn(value);
        return column is string
            ? new NpgsqlParameter(name, NpgsqlDbType.Unknown) { Value = column }
            : new NpgsqlParameter(name, column);
    }

    public override StepError? Error(Exception e, string connection) =>
        e switch
        {
            PostgresException p => p.SqlState switch
            {
                PostgresErrorCodes.InvalidPassword or PostgresErrorCodes.InvalidAuthorizationSpecification => Failed(
                    "login",
                    $"“{connection}” refuses the user or the password: {p.MessageText}",
                    "Set the secret again, or correct the user in connections.yaml."
                ),
                PostgresErrorCodes.InvalidCatalogName => Failed("no-database", $"“{connection}”: {p.MessageText}"),
                PostgresErrorCodes.UndefinedTable => Failed(
                    "no-table",
                    p.MessageText,
                    $"{NothingChanged} Create it, for example with a sql step before this one."
                ),
                PostgresErrorCodes.DiskFull => Failed(
                    "full",
                    $"the disk of “{connection}” is full",
                    $"{NothingChanged} Make room and resume."
                ),
                PostgresErrorCodes.DeadlockDetected
                or PostgresErrorCodes.LockNotAvailable
                or PostgresErrorCodes.SerializationFailure => Failed(
                    "locked",
                    $"others were at work on the same rows: {p.MessageText}",
                    $"{NothingChanged} A retry rule on the step repeats it automatically."
                ),
                PostgresErrorCodes.QueryCanceled => Failed("stopped", "the statement was ended early"),
                PostgresErrorCodes.AdminShutdown
                or PostgresErrorCodes.CrashShutdown
                or PostgresErrorCodes.CannotConnectNow => Failed(
                    "cut",
                    $"the server of “{connection}” was ended: {p.MessageText}",
                    "What was not committed is undone there."
                ),
                { } state when state.StartsWith("23", StringComparison.Ordinal) => Failed(
                    "constraint",
                    $"a rule of the database was broken: {p.MessageText}",
                    p.Detail
                ),
                _ => Failed("sql", p.MessageText, Where(p)),
            },
            NpgsqlException { InnerException: SocketException socket } => Failed(
                "unreachable",
                $"the server of “{connection}” can't be reached: {socket.Message}"
            ),
            NpgsqlException { InnerException: TimeoutException } => Failed(
                "unreachable",
                $"the server of “{connection}” does not answer"
            ),
            NpgsqlException { InnerException: IOException io } => Failed(
                "cut",
                $"the connection “{connection}” was cut: {io.Message}",
                "What was not committed is undone there."
            ),
            NpgsqlException n when n.Message.Contains("SSL", StringComparison.Ordinal) => Failed(
                "tls",
                $"the server of “{connection}” offers no TLS: {n.Message}",
                NoTls
            ),
            NpgsqlException n => Failed("connection", $"“{connection}”: {n.Message}"),
            _ => null,
        };

    static string? Where(PostgresException p) =>
        string.Join(
            " ",
            new[]
            {
                p.Detail,
                p.Hint,
                p.Position > 0 ? string.Create(CultureInfo.InvariantCulture, $"At character {p.Position}.") : null,
            }.OfType<string>()
        )
            is { Length: > 0 } text
            ? text
            : null;

    // Classes 22 and 23: data exceptions and broken rules; P0001 is what triggers raise.
    protected override bool IsAboutRow(DbException e) =>
        e is PostgresException { SqlState: { } state }
        && (
            state.StartsWith("22", StringComparison.Ordinal)
            || state.StartsWith("23", StringComparison.Ordinal)
            || state == PostgresErrorCodes.RaiseException
        );

    // “COPY pickups, line 3, column v: "abc"”
    protected override RowRefusal Tell(DbException e)
    {
        var p = (PostgresException)e;
        var copy = p.Where is null ? Match.Empty : CopyLine().Match(p.Where);
        return new(
            Sentence(e),
            p.ColumnName ?? (copy.Groups[2].Success ? copy.Groups[2].Value : null),
            copy.Success ? int.Parse(copy.Groups[1].Value, CultureInfo.InvariantCulture) : null
        );
    }

    public override string StagesQuery(string prefix) =>
        "SELECT table_name FROM information_schema.tables WHERE table_schema = ANY "
        + $"(current_schemas(false)) AND table_name LIKE '{prefix}%' ORDER BY table_name";

    // What COPY does not know: rules, and rows that not everybody may see. A view has no rows of its own.
    public override string? NotStraight(Session session, string table)
    {
        using var command = session.Command(
            null,
            "SELECT relkind IN ('r', 'p') AND NOT relrowsecurity AND NOT relhasrules FROM pg_class WHERE "
                + "oid = to_regclass($t)",
            ("t", QuoteTable(table))
        );
        return command.ExecuteScalar() is true ? null : "it is a view, or has rules or row security";
    }

    // A column without a zone passes over it.
    public override string Moment(DateTimeOffset at) => $"{base.Moment(at)[..^1]}+00'";

    public override string? IndexStage(string stage) => $"CREATE INDEX ON {stage} ({StageLine})";

    [GeneratedRegex(
        @"^COPY [^,]+, line (\d+)(?:, column ([^:]+):.*)?",
        RegexOptions.CultureInvariant | RegexOptions.Singleline
    )]
    private static partial Regex CopyLine();

    public override bool IsDeadlock(DbException e) =>
        e
            is PostgresException
            {
                SqlState: PostgresErrorCodes.DeadlockDetected or PostgresErrorCodes.SerializationFailure
            };

    // With its length, precision or brackets; what is made by somebody has a schema, and may not be there.
    public override string? OwnTypeOf(DbDataReader reader, int column) =>
        reader.GetDataTypeName(column) is var name
        && name.All(c =>
            char.IsAsciiLetterLower(c) || char.IsAsciiDigit(c) || c is ' ' or '(' or ')' or ',' or '[' or ']' or '_'
        )
            ? name
            : null;

    public override string? RowSession => PostgreSqlText.Settings;

    // As texts: the driver has no type for numbers of many digits, endless times and months.
    public override void BeforeRead(DbCommand command) => ((NpgsqlCommand)command).AllResultTypesAreUnknown = true;

    public override Func<int, object?> Cell(DbDataReader reader)
    {
        string[] types = [.. Enumerable.Range(0, reader.FieldCount).Select(reader.GetDataTypeName)];
        return column => reader.IsDBNull(column) ? null : PostgreSqlText.Read(types[column], reader.GetString(column));
    }

    // As text: some types of columns know no equality.
    public override string Same(string a, string b) => $"{a}::text IS NOT DISTINCT FROM {b}::text";

    public override IRowWriter Writer(
        DbConnection connection,
        DbTransaction transaction,
        string stage,
        IReadOnlyList<string> columns
    ) =>
        new CopyWriter(
            (NpgsqlConnection)connection,
            $"COPY {stage} ({string.Join(", ", columns.Select(Quote))}) FROM STDIN"
        );

    /// <summary>The database's own way in: text, of which the server makes the types of the columns.</summary>
    sealed class CopyWriter(NpgsqlConnection connection, string statement) : IRowWriter
    {
        TextWriter? _copy;

        public void Add(object?[] row)
        {
            _copy ??= connection.BeginTextImport(statement);
            for (var c = 0; c < row.Length; c++)
            {
                if (c > 0)
                    _copy.Write('\t');
                Write(_copy, row[c]);
            }
            _copy.Write('\n');
        }

        static void Write(TextWriter copy, object? value)
        {
            switch (value)
            {
                case null or DBNull:
                    copy.Write("\\N");
                    break;
                case string text:
                    TabText.Write(copy, text);
                    break;
                case bool b:
                    copy.Write(b ? 't' : 'f');
                    break;
                case byte[] bytes:
                    copy.Write("\\\\x");
                    copy.Write(Convert.ToHexString(bytes));
                    break;
                case DateTime t:
                    copy.Write(t.ToString("O", CultureInfo.InvariantCulture));
                    break;
                case JsonText json:
                    TabText.Write(copy, json.Literal ?? json.Text);
                    break;
                default:
                    TabText.Write(copy, Cells.Text(value));
                    break;
            }
        }

        public void Complete()
        {
            var copy = _copy;
            _copy = null;
            copy?.Dispose();
        }

        public void Forget()
        {
            // Not completed: what was sent is taken back with the transaction.
            try
            {
                Complete();
            }
            catch (NpgsqlException) { }
        }

        public void Dispose() => Forget();
    }
}
