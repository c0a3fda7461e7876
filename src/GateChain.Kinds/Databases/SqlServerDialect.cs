using System.Data;
using System.Data.Common;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Running.Events;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Data;
using GateChain.Kinds.Settings;
using Microsoft.Data.SqlClient;

namespace GateChain.Kinds.Databases;

/// <summary>SQL Server from 2017 on. Written against its driver; not yet tried against a server.</summary>
sealed class SqlServerDialect : Dialect
{
    public override string Type => "sqlserver";
    public override string Doc => "A SQL Server database, from 2017 on. Not tried against a server by our tests.";
    public override SettingShape Settings { get; } = SettingsShape.Of<ServerSettings>();
    public override string VersionQuery =>
        "SELECT 'SQL Server ' + cast(serverproperty('ProductVersion') AS nvarchar(50))";

    public override string TablesQuery => TablesOf("schema_name()");

    public override string Same(string a, string b) => $"EXISTS (SELECT {a} INTERSECT SELECT {b})";

    public override string Quote(string name) => "[" + name.Replace("]", "]]", StringComparison.Ordinal) + "]";

    public override async Task<DbConnection> OpenAsync(
        Connection connection,
        ConnectionUse use,
        Action<string> notice,
        CancellationToken cancel
    )
    {
        // It knows no transaction that only reads.
        if (use.ReadOnly)
        {
            throw new StepFailedException(
                "not-looked",
                "what a query on SQL Server gives is not looked at: the server can't be told that nothing may change"
            );
        }
        var settings = connection.As<ServerSettings>(use.Secrets);
        var server = new SqlConnection(
            new SqlConnectionStringBuilder
            {
                DataSource = settings.Port is { } port ? $"{settings.Host},{port}" : settings.Host,
                InitialCatalog = settings.Database,
                UserID = settings.User,
                Password = settings.Password ?? "",
                ConnectTimeout = Math.Max(1, (int)settings.ConnectTimeout.TotalSeconds),
                CommandTimeout = 0,
                Pooling = false,
                ApplicationName = "Gate Chain",
                ConnectRetryCount = 0,
                Encrypt = settings.TlsRule is Tls.Off or Tls.Prefer
                    ? SqlConnectionEncryptOption.Optional
                    : SqlConnectionEncryptOption.Mandatory,
                TrustServerCertificate = settings.TlsRule != Tls.Verify,
            }.ToString()
        );
        server.InfoMessage += (_, e) => notice(e.Message);
        try
        {
            await server.OpenAsync(cancel).ConfigureAwait(false);
            return server;
        }
        catch (NotSupportedException e)
        {
            await server.DisposeAsync().ConfigureAwait(false);
            throw new FormatException(
                "SQL Server's driver needs ICU, and Gate Chain runs without it; install libicu, "
                    + "and set System.Globalization.Invariant to false in gatechain.runtimeconfig.json",
                e
            );
        }
        catch
        {
            await server.DisposeAsync().ConfigureAwait(false);
            throw;
        }
    }

    public override string CreateStage(string stage, string table, string columns) =>
        $"SELECT {columns}, CAST(0 AS BIGINT) AS {Quote(StageLine)} INTO {stage} FROM {table} WHERE 1 = 0";

    public override string? IndexStage(string stage) => $"CREATE INDEX {stage}_line ON {stage} ({Quote(StageLine)})";

    // Data exceptions, broken rules, and what triggers throw.
    protected override bool IsAboutRow(DbException e) =>
        e
            is SqlException
            {
                Number: 547
                    or 515
                    or 2601
                    or 2627
                    or 8152
                    or 2628
                    or 245
                    or 8114
                    or 8115
                    or 220
                    or 242
                    or 241
                    or 232
                    or 4819
                    or >= 50000
            };

    public override string TypeOf(ColumnType? type, bool isKey) =>
        type switch
        {
            ColumnType.Double => "FLOAT",
            ColumnType.Bool => "BIT",
            ColumnType.Timestamp => "DATETIME2",
            null or ColumnType.String => isKey ? "NVARCHAR(255)" : "NVARCHAR(MAX)",
            _ => base.TypeOf(type, isKey),
        };

    public override string TypeOf(CellType type, bool isKey) =>
        type.Kind switch
        {
            CellKind.Bytes => "VARBINARY(MAX)",
            CellKind.Uuid => "UNIQUEIDENTIFIER",
            CellKind.TimestampUtc => "DATETIME2",
            _ => base.TypeOf(type, isKey),
        };

    public override string Upsert(string table, IReadOnlyList<string> columns, IReadOnlyList<string> key, string rows)
    {
        var others = columns.Where(c => !key.Contains(c)).ToList();
        return $"""
            MERGE INTO {table} WITH (HOLDLOCK) AS t USING {rows} AS s ON {string.Join(
                " AND ",
                key.Select(k => $"t.{Quote(k)} = s.{Quote(k)}")
            )}
            {(
                others.Count == 0
                    ? ""
                    : $"WHEN MATCHED THEN UPDATE SET {string.Join(", ", others.Select(c => $"{Quote(c)} = s.{Quote(c)}"))}"
            )}
            WHEN NOT MATCHED THEN INSERT ({string.Join(", ", columns.Select(Quote))}) VALUES ({string.Join(
                ", ",
                columns.Select(c => "s." + Quote(c))
            )});
            """;
    }

    public override StepError? Error(Exception e, string connection) =>
        e is SqlException s ? Error(s, connection) : null;

    // From here on an error has closed the connection.
    const int Fatal = 20;

    static StepError Error(SqlException s, string connection) =>
        s.Number switch
        {
            18456 => Failed(
                "login",
                $"“{connection}” refuses the user or the password: {s.Message}",
                "Set the secret again, or correct the user in connections.yaml."
            ),
            4060 => Failed("no-database", $"“{connection}”: {s.Message}"),
            208 => Failed(
                "no-table",
                s.Message,
                $"{NothingChanged} Create it, for example with a sql step before this one."
            ),
            1101 or 1105 or 9002 => Failed(
                "full",
                $"the disk of “{connection}” is full",
                $"{NothingChanged} Make room and resume."
            ),
            1205 or 1222 => Failed(
                "locked",
                $"others were at work on the same rows: {s.Message}",
                $"{NothingChanged} A retry rule on the step repeats it automatically."
            ),
            547 or 515 or 2601 or 2627 => Failed("constraint", $"a rule of the database was broken: {s.Message}"),
            -2 or 53 or 10060 or 10061 or 11001 or 40 => Failed(
                "unreachable",
                $"the server of “{connection}” can't be reached: {s.Message}"
            ),
            0 when s.Class >= Fatal => Failed(
                "unreachable",
                $"the server of “{connection}” can't be reached: {s.Message}"
            ),
            0 => Failed("stopped", "the statement was ended early"),
            _ => Failed("sql", s.Message),
        };

    public override IRowWriter Writer(
        DbConnection connection,
        DbTransaction transaction,
        string stage,
        IReadOnlyList<string> columns
    ) => new BulkWriter((SqlConnection)connection, (SqlTransaction)transaction, stage, columns);

    sealed class BulkWriter : IRowWriter
    {
        const int AtOnce = 5_000;
        readonly SqlBulkCopy _bulk;
        readonly DataTable _rows = new() { Locale = System.Globalization.CultureInfo.InvariantCulture };

        public BulkWriter(
            SqlConnection connection,
            SqlTransaction transaction,
            string stage,
            IReadOnlyList<string> columns
        )
        {
            _bulk = new(connection, SqlBulkCopyOptions.Default, transaction)
            {
                DestinationTableName = stage,
                BulkCopyTimeout = 0,
            };
            foreach (var column in columns)
            {
                _rows.Columns.Add(column, typeof(object));
                _bulk.ColumnMappings.Add(column, column);
            }
        }

        public void Add(object?[] row)
        {
            _rows.Rows.Add(row);
            if (_rows.Rows.Count >= AtOnce)
                Complete();
        }

        public void Complete()
        {
            if (_rows.Rows.Count > 0)
                _bulk.WriteToServer(_rows);
            _rows.Clear();
        }

        public void Forget() => _rows.Clear();

        public void Dispose()
        {
            ((IDisposable)_bulk).Dispose();
            _rows.Dispose();
        }
    }
}
