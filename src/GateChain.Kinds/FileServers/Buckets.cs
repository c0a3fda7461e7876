using GateChain.Kinds.Connections;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.FileServers;

/// <summary>The types of connections that lead to stores of objects.</summary>
static class Buckets
{
    public static ConnectionType S3 { get; } =
        Of<S3Settings>(
            "s3",
            "A bucket behind the S3 protocol.",
            (settings, cancel) => new S3Server(settings, cancel),
            e => S3Errors.Of(e)?.Message
        );

    public static ConnectionType Azure { get; } =
        Of<AzureSettings>(
            "azure",
            "A container of Azure Blob Storage.",
            (settings, cancel) => new AzureServer(settings, cancel),
            e => AzureErrors.Of(e)?.Message
        );

    static ConnectionType Of<T>(
        string name,
        string doc,
        Func<T, CancellationToken, Bucket> open,
        Func<Exception, string?> words
    )
        where T : class, new() =>
        new(
            name,
            doc,
            SettingsShape.Of<T>(),
            (connection, use, cancel) =>
                Task.Run(
                    () =>
                    {
                        using var server = open(connection.As<T>(use.Secrets), cancel);
                        return server.Greeting();
                    },
                    cancel
                ),
            words
        );
}
