using System.Globalization;
using GateChain.Core.Datasets;
using GateChain.Kinds.Connections;

namespace GateChain.Engine.Lineage;

/// <summary>
/// Names data as OpenLineage does, so that other systems find them to be the same: a namespace that says where they
/// are, and a name in it. Source: its naming conventions. Pure.
/// </summary>
/// <param name="connections">What connections lead to.</param>
/// <param name="workFolder">Where relative paths start from.</param>
sealed class DatasetNames(IConnections connections, string workFolder)
{
    public (string Namespace, string Name) Of(Dataset data) =>
        data.Connection is null ? Here(data)
        : connections.Find(data.Connection) is { } connection ? Of(data, connection)
        : ($"connection://{data.Connection}", data.Name);

    (string, string) Here(Dataset data) =>
        data.Form == DataForm.Address && Uri.TryCreate(data.Name, UriKind.Absolute, out var address)
            ? (address.GetLeftPart(UriPartial.Authority), address.AbsolutePath)
            : ("file", Path.Combine(workFolder, data.Name));

    (string, string) Of(Dataset data, Connection connection) =>
        connection.Type switch
        {
            "postgresql" => (
                Server(connection, "postgres", 5432),
                $"{connection.Text("database")}.{WithSchema(data.Name, "public")}"
            ),
            "mysql" => (Server(connection, "mysql", 3306), $"{connection.Text("database")}.{Plain(data.Name)}"),
            "sqlserver" => (
                Server(connection, "mssql", 1433),
                $"{connection.Text("database")}.{WithSchema(data.Name, "dbo")}"
            ),
            "sqlite" or "duckdb" => (
                $"{connection.Type}://{Path.Combine(workFolder, connection.Text("path") ?? "")}",
                Plain(data.Name)
            ),
            "folder" => ("file", Path.Combine(workFolder, connection.Text("path") ?? "", data.Name)),
            "sftp" => (Server(connection, "sftp", 22), data.Name),
            "ftp" => (Server(connection, "ftp", 21), data.Name),
            "s3" => ($"s3://{connection.Text("bucket")}", data.Name),
            "azure" => ($"wasbs://{connection.Text("container")}@{connection.Text("account")}", data.Name),
            "http" when Uri.TryCreate(connection.Text("url"), UriKind.Absolute, out var address) => (
                address.GetLeftPart(UriPartial.Authority),
                $"{address.AbsolutePath.TrimEnd('/')}/{data.Name.TrimStart('/')}"
            ),
            _ => ($"connection://{connection.Name}", data.Name),
        };

    static string Server(Connection connection, string scheme, int port) =>
        $"{scheme}://{connection.Text("host")}:"
        + (connection.Text("port") ?? port.ToString(CultureInfo.InvariantCulture));

    static string WithSchema(string table, string schema) =>
        table.Contains('.', StringComparison.Ordinal) ? Plain(table) : $"{schema}.{Plain(table)}";

    static string Plain(string table) =>
        table.Replace("\"", "", StringComparison.Ordinal).Replace("`", "", StringComparison.Ordinal);
}
