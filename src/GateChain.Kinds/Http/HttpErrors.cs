using System.Net.Sockets;
using System.Security.Authentication;
using GateChain.Core.Running.Events;
using GateChain.Kinds.Contract;

namespace GateChain.Kinds.Http;

/// <summary>What went wrong on the way to a server and back, in sentences.</summary>
static class HttpErrors
{
    /// <summary>What an exception of a request means; null for one of something else.</summary>
    public static StepError? Of(Exception e) =>
        e switch
        {
            HttpRequestException { HttpRequestError: HttpRequestError.ConfigurationLimitExceeded } => new(
                "size",
                $"the answer is larger than {HttpConnection.MostBuffered >> 20} MiB"
            ),
            StepFailedException known => known.Error,
            HttpRequestException { InnerException: SocketException socket } => new(
                "unreachable",
                "the server can't be reached: "
                    + (
                        e.Message.StartsWith(socket.Message, StringComparison.Ordinal)
                            ? e.Message
                            : $"{socket.Message} ({e.Message})"
                    )
            ),
            HttpRequestException { InnerException: AuthenticationException tls } => new(
                "tls",
                $"the server's certificate is not accepted: {tls.InnerException?.Message ?? tls.Message}"
            ),
            HttpRequestException { InnerException: IOException io } => new(
                "cut",
                $"the connection was cut: {io.Message}"
            ),
            HttpIOException io => new("cut", $"the connection was cut: {io.Message}"),
            HttpRequestException request => new("http", request.Message),
            TaskCanceledException { InnerException: TimeoutException } => new(
                "timeout",
                "the server did not answer in time",
                "The connection's “timeout” says how long that is."
            ),
            UriFormatException uri => new("setting", uri.Message),
            _ => null,
        };
}
