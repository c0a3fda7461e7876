using System.Data.Common;
using System.Text.RegularExpressions;
using DuckDB.NET.Data;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Data;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Databases;

/// <summary>DuckDB: a database for analysis, in a file.</summary>
sealed partial class DuckDbDialect : Dialect
{
    public override string Type => "duckdb";
    public override string Doc => "A DuckDB database in a file. One program at a time can have it open.";
    public override SettingShape Settings { get; } = SettingsShape.Of<DuckDbSettings>();
    public override string VersionQuery => "SELECT 'DuckDB ' || version()";
    public override string Marker => "$";

    public override async Task<DbConnection> OpenAsync(
        Connection connection,
        ConnectionUse use,
        Action<string> notice,
        CancellationToken cancel
    )
    {
        var path = use.Resolve(connection.As<DuckDbSettings>(use.Secrets).Path);
        if (Path.GetDirectoryName(path) is { } folder && !Directory.Exists(folder))
        {
            throw new DirectoryNotFoundException(
                $"the folder of connection “{connection.Name}” is not there: {folder}"
            );
        }
        var duck = new DuckDBConnection(
            new DuckDBConnectionStringBuilder
            {
                DataSource = path,
                ["access_mode"] = use.ReadOnly ? "READ_ONLY" : "AUTOMATIC",
            }.ToString()
        );
        try
        {
            await duck.OpenAsync(cancel).ConfigureAwait(false);
            await ConfineAsync(duck, use, cancel).ConfigureAwait(false);
            return duck;
        }
        catch
        {
            await duck.DisposeAsync().ConfigureAwait(false);
            throw;
        }
    }

    // Its statements read and write files and ask servers; they get the folders that steps may use, and nothing is
    // fetched from the network.
    static async Task ConfineAsync(DuckDBConnection duck, ConnectionUse use, CancellationToken cancel)
    {
        if (use.Reach is not { } reach)
            return;
        static string List(IEnumerable<string> paths) =>
            $"[{string.Join(", ", paths.Select(p => $"'{p.Replace("'", "''", StringComparison.Ordinal)}'"))}]";
        var (folders, files) = reach();
        using var command = duck.CreateCommand();
        // Everybody in this process who has the file open shares it, and the first has confined it.
        command.CommandText = "SELECT current_setting('lock_configuration')";
        if (await command.ExecuteScalarAsync(cancel).ConfigureAwait(false) is true)
            return;
        command.CommandText =
            "SET autoinstall_known_extensions = false; SET autoload_known_extensions = false; "
            + $"SET allow_community_extensions = false; SET allowed_directories = {List(folders)}; "
            + $"SET allowed_paths = {List(files)}; SET enable_external_access = false; "
            + "SET lock_configuration = true;";
        await command.ExecuteNonQueryAsync(cancel).ConfigureAwait(false);
    }

    public override string ParameterName(string name) => name;

    public override string TypeOf(CellType type, bool isKey) =>
        type.Kind switch
        {
            CellKind.TimestampUtc => "TIMESTAMPTZ",
            CellKind.Bytes => "BLOB",
            CellKind.Uuid => "UUID",
            _ => base.TypeOf(type, isKey),
        };

    public override bool HasSavepoints => false;

    protected override bool IsAboutRow(DbException e) =>
        e is DuckDBException
        && (
            e.Message.Contains("Constraint Error", StringComparison.Ordinal)
            || e.Message.Contains("Conversion Error", StringComparison.Ordinal)
            || e.Message.Contains("Out of Range Error", StringComparison.Ordinal)
            || e.Message.Contains("Invalid Input Error", StringComparison.Ordinal)
        );

    protected override RowRefusal Tell(DbException e) =>
        new(Sentence(e), ColumnName().Match(e.Message) is { Success: true } column ? column.Groups[1].Value : null);

    // “NOT NULL constraint failed: t.v”
    [GeneratedRegex("""constraint failed: (?:\w+\.)?(\w+)$""", RegexOptions.CultureInvariant)]
    private static partial Regex ColumnName();

    public override string ReadableQuery(Session session, string query, IEnumerable<KeyValuePair<string, Value>> bind)
    {
        using var describe = session.Command(null, $"DESCRIBE {query}", bind);
        using var reader = describe.ExecuteReader();
        var columns = new List<(string Name, string Type)>();
        while (reader.Read())
            columns.Add((reader.GetString(0), reader.GetString(1)));
        return DuckDbText.Readable(columns, query);
    }

    public override Func<int, object?> Cell(DbDataReader reader) => DuckDbText.Cell(reader);

    public override CellType? TypeOf(DbDataReader reader, int column) =>
        DuckDbText.TypeOf(reader.GetName(column)) ?? base.TypeOf(reader, column);

    public override StepError? Error(Exception e, string connection) =>
        e is not DuckDBException d
            ? null
            : d.Message switch
            {
                var m
                    when m.Contains("Could not set lock", StringComparison.Ordinal)
                        || m.Contains("Conflicting lock", StringComparison.Ordinal) => Failed(
                    "locked",
                    $"the database of “{connection}” is open in another program",
                    $"{NothingChanged} Try again when the other program is done; "
                        + "a retry rule on the step does it automatically."
                ),
                var m when m.Contains("INTERRUPT", StringComparison.OrdinalIgnoreCase) => Failed(
                    "stopped",
                    "the statement was ended early"
                ),
                var m when m.Contains("No space left", StringComparison.Ordinal) => Failed(
                    "full",
                    $"the disk of “{connection}” is full",
                    $"{NothingChanged} Make room and resume."
                ),
                var m
                    when m.Contains("Table with name", StringComparison.Ordinal)
                        && m.Contains("does not exist", StringComparison.Ordinal) => Failed(
                    "no-table",
                    m,
                    $"{NothingChanged} Create it, for example with a sql step before this one."
                ),
                var m when m.Contains("Constraint Error", StringComparison.Ordinal) => Failed(
                    "constraint",
                    $"a rule of the database was broken: {m}"
                ),
                var m when m.Contains("not a valid DuckDB database", StringComparison.Ordinal) => Failed(
                    "no-database",
                    $"the file of “{connection}” is not a DuckDB database"
                ),
                var m => Failed("sql", m),
            };

    public override IRowWriter Writer(
        DbConnection connection,
        DbTransaction transaction,
        string stage,
        IReadOnlyList<string> columns
    ) => new InsertWriter(this, connection, transaction, stage, columns, rowsAtOnce: 100);
}
