using GateChain.Kinds.Connections;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.FileServers;

/// <summary>The types of connections that lead to stores of objects.</summary>
static class Buckets
{
    public static ConnectionType S3 { get; } =
        new(
            "s3",
            "A bucket behind the S3 protocol.",
            SettingsShape.Of<S3Settings>(),
            (connection, use, cancel) =>
                Task.Run(
                    () =>
                    {
                        using var server = new S3Server(connection.As<S3Settings>(use.Secrets), cancel);
                        return server.Greeting();
                    },
                    cancel
                ),
            e => S3Errors.Of(e)?.Message
        );

    public static ConnectionType Azure { get; } =
        new(
            "azure",
            "A container of Azure Blob Storage.",
            SettingsShape.Of<AzureSettings>(),
            (connection, use, cancel) =>
                Task.Run(
                    () =>
                    {
                        using var server = new AzureServer(connection.As<AzureSettings>(use.Secrets), cancel);
                        return server.Greeting();
                    },
                    cancel
                ),
            e => AzureErrors.Of(e)?.Message
        );
}
