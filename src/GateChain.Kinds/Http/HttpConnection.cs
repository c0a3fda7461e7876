using System.Net.Http.Headers;
using System.Text;
using System.Text.Json;
using GateChain.Core.Running.State;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Http;

/// <summary>Sends requests for one attempt, as its connection says. Not thread-safe.</summary>
/// <remarks>Source: RFC 9110; OAuth 2.0, RFC 6749.</remarks>
sealed class HttpConnection : IDisposable
{
    /// <summary>What the type is, and how to see whether it works.</summary>
    public static ConnectionType Type { get; } =
        new(
            "http",
            "A service that speaks HTTP.",
            SettingsShape.Of<HttpConnectionSettings>(),
            async (connection, use, cancel) =>
            {
                using var http = new HttpConnection(
                    connection.As<HttpConnectionSettings>(use.Secrets),
                    TimeProvider.System,
                    use.Secrets,
                    use.Network
                );
                using var response = await http.SendAsync(
                        () => new(HttpMethod.Get, http.Address("")),
                        HttpCompletionOption.ResponseHeadersRead,
                        cancel
                    )
                    .ConfigureAwait(false);
                if ((int)response.StatusCode is 401 or 403)
                {
                    throw new HttpRequestException(
                        $"{http._settings.Url} answers {(int)response.StatusCode} {response.ReasonPhrase}"
                            + ": it refuses who asks"
                    );
                }
                return $"answers {(int)response.StatusCode} {response.ReasonPhrase}"
                    + $"{(response.Headers.Server.Count > 0 ? $", {response.Headers.Server}" : "")}, "
                    + $"HTTP/{response.Version}";
            },
            e => HttpErrors.Of(e)?.Message
        );

    const int MostRedirections = 5;
    static readonly TimeSpan LongestWait = TimeSpan.FromMinutes(5);

    readonly HttpConnectionSettings _settings;
    readonly HttpClient _client;
    string? _token;
    string? _trace;

    readonly TimeProvider _time;
    readonly ISecrets? _secrets;

    /// <param name="settings">The connection; one without an address for requests that name theirs in full.</param>
    /// <param name="time">Measures waits.</param>
    /// <param name="secrets">Learns the tokens it gets; null where nothing is shown.</param>
    /// <param name="network">Where it may go; everywhere when null.</param>
    public HttpConnection(
        HttpConnectionSettings settings,
        TimeProvider time,
        ISecrets? secrets = null,
        NetworkRules? network = null
    )
    {
        (_settings, _time, _secrets) = (settings, time, secrets);
        var handler = new SocketsHttpHandler
        {
            AllowAutoRedirect = false,
            ConnectTimeout = TimeSpan.FromSeconds(15),
            UseCookies = false,
            AutomaticDecompression = System.Net.DecompressionMethods.All,
        };
        // Also where a redirection leads, and with what a name is found to be at that moment. A proxy would go there
        // unseen.
        if (network is { IsOpen: false })
        {
            handler.UseProxy = false;
            handler.ConnectCallback = (context, cancel) => network.ConnectAsync(context.DnsEndPoint, cancel);
        }
        _client = new(handler) { Timeout = settings.Timeout };
        _client.DefaultRequestHeaders.UserAgent.Add(
            new("GateChain", typeof(HttpConnection).Assembly.GetName().Version?.ToString(2))
        );
        _client.MaxResponseContentBufferSize = MostBuffered;
        foreach (var (name, value) in settings.Headers)
            CheckHeader(name, value);
    }

    /// <summary>The most bytes of an answer that is taken as a whole.</summary>
    internal const int MostBuffered = 16 << 20;

    /// <summary>Whether a header can be sent as it is: a line end in one would begin another request.</summary>
    /// <remarks>Source: RFC 9110, section 5.5.</remarks>
    /// <exception cref="StepFailedException">It can't.</exception>
    public static void CheckHeader(string name, string value)
    {
        if (
            name.Length == 0
            || !name.All(c => char.IsAsciiLetterOrDigit(c) || "!#$%&'*+-.^_`|~".Contains(c, StringComparison.Ordinal))
        )
        {
            throw new StepFailedException(
                "setting",
                $"“{ValueTextOf(name)}” is no name of a header",
                "Nothing was sent."
            );
        }
        if (value.Any(c => (char.IsControl(c) && c != '\t') || c > 0xff))
        {
            throw new StepFailedException(
                "setting",
                $"the value of the header {name} holds a line end, a control character, "
                    + "or one that headers don't carry",
                "Nothing was sent. Encode the value, for example with base64.encode(bytes(…))."
            );
        }
    }

    static string ValueTextOf(string text) => new([.. text.Take(60).Select(c => char.IsControl(c) ? '·' : c)]);

    /// <summary>The connection of a name, or one without an address for null.</summary>
    /// <exception cref="StepFailedException">It can't be used.</exception>
    public static HttpConnection Of(string? name, IConnections connections, ISecrets secrets, TimeProvider time) =>
        name is null
            ? new(new(), time, null, connections.Network)
            : new(
                connections.Require(name, Type.Name).Open<HttpConnectionSettings>(secrets),
                time,
                secrets,
                connections.Network
            );

    /// <summary>The same for an attempt, which shows the trace that it belongs to.</summary>
    public static HttpConnection Of(string? name, AttemptContext context)
    {
        var http = Of(name, context.Connections, context.Secrets, context.Time);
        http._trace = context.Trace;
        return http;
    }

    /// <summary>
    /// A path behind the connection's address. A full address is taken as it is when it leads to the same server: who
    /// asks is said to nobody else.
    /// </summary>
    /// <exception cref="StepFailedException">It is no address, or leads elsewhere.</exception>
    public Uri Address(string path)
    {
        if (_settings.Url.Length == 0)
        {
            return Uri.TryCreate(path, UriKind.Absolute, out var full) && full.Scheme is "http" or "https"
                ? full
                : throw new StepFailedException(
                    "setting",
                    $"“{path}” is not an http address; name a connection for a path"
                );
        }
        if (
            !Uri.TryCreate(
                _settings.Url.EndsWith('/') ? _settings.Url : _settings.Url + "/",
                UriKind.Absolute,
                out var from
            ) || from.Scheme is not ("http" or "https")
        )
        {
            throw new StepFailedException("connection", $"“{_settings.Url}” is not an http address");
        }
        var to = path.Length == 0 ? from : new Uri(from, path.StartsWith('/') ? path[1..] : path);
        return to.GetLeftPart(UriPartial.Authority) == from.GetLeftPart(UriPartial.Authority)
            ? to
            : throw new StepFailedException(
                "address",
                $"{to.GetLeftPart(UriPartial.Authority)} is another server than the connection's "
                    + $"{from.GetLeftPart(UriPartial.Authority)}",
                "Who asks is said only to the connection's own server. Use another connection for this one."
            );
    }

    /// <summary>Sends a request. A token that has run out is asked for again, once.</summary>
    /// <param name="request">Makes the request; a second one when the first was refused.</param>
    public async Task<HttpResponseMessage> SendAsync(
        Func<HttpRequestMessage> request,
        HttpCompletionOption completion,
        CancellationToken cancel
    )
    {
        var response = await OnceAsync(request, completion, cancel).ConfigureAwait(false);
        if (
            _settings.Auth != HttpAuth.ClientCredentials
            || response.StatusCode != System.Net.HttpStatusCode.Unauthorized
        )
        {
            return response;
        }
        response.Dispose();
        _token = null;
        return await OnceAsync(request, completion, cancel).ConfigureAwait(false);
    }

    // Redirections are followed by hand: headers that say who asks must not go to another server.
    async Task<HttpResponseMessage> OnceAsync(
        Func<HttpRequestMessage> make,
        HttpCompletionOption completion,
        CancellationToken cancel
    )
    {
        var (to, asGet) = ((Uri?)null, false);
        for (var hop = 0; ; hop++)
        {
            using var request = make();
            if (to is not null)
                request.RequestUri = to;
            if (asGet)
            {
                (request.Method, request.Content) = (HttpMethod.Get, null);
                request.Headers.Remove("Idempotency-Key");
            }
            foreach (var (name, value) in _settings.Headers)
            {
                if (!request.Headers.Contains(name))
                    request.Headers.TryAddWithoutValidation(name, value);
            }
            if (_trace is not null && !request.Headers.Contains(TraceContext.Header))
                request.Headers.TryAddWithoutValidation(TraceContext.Header, _trace);
            request.Headers.Authorization ??= await WhoAsync(cancel).ConfigureAwait(false);
            var response = await _client.SendAsync(request, completion, cancel).ConfigureAwait(false);
            if (
                (int)response.StatusCode is not (301 or 302 or 303 or 307 or 308)
                || response.Headers.Location is not { } location
            )
            {
                return response;
            }
            using (response)
            {
                if (hop == MostRedirections)
                {
                    throw new StepFailedException(
                        "address",
                        $"{request.RequestUri!.GetLeftPart(UriPartial.Path)} is redirected again and again"
                    );
                }
                var from = request.RequestUri!;
                to = new Uri(from, location);
                if (to.GetLeftPart(UriPartial.Authority) != from.GetLeftPart(UriPartial.Authority))
                {
                    throw new StepFailedException(
                        "address",
                        $"{from.GetLeftPart(UriPartial.Path)} is redirected to another server, "
                            + $"{to.GetLeftPart(UriPartial.Authority)}",
                        "Who asks is said only to the connection's own server. "
                            + "If the new address is right, write it to the connection."
                    );
                }
                asGet |=
                    (int)response.StatusCode == 303
                    || ((int)response.StatusCode is 301 or 302 && request.Method == HttpMethod.Post);
            }
        }
    }

    async Task<AuthenticationHeaderValue?> WhoAsync(CancellationToken cancel) =>
        _settings.Auth switch
        {
            HttpAuth.Basic => Basic(),
            HttpAuth.Bearer => new(
                "Bearer",
                _settings.Token ?? throw new StepFailedException("connection", "auth bearer needs “token”")
            ),
            HttpAuth.ClientCredentials => new("Bearer", _token ??= await TokenAsync(cancel).ConfigureAwait(false)),
            _ => null,
        };

    AuthenticationHeaderValue Basic() =>
        new("Basic", Convert.ToBase64String(Encoding.UTF8.GetBytes($"{_settings.User}:{_settings.Password}")));

    async Task<string> TokenAsync(CancellationToken cancel)
    {
        var fields = new Dictionary<string, string> { ["grant_type"] = "client_credentials" };
        if (_settings.Scope is { } scope)
            fields["scope"] = scope;
        var address = _settings.TokenUrl
            ?? throw new StepFailedException("connection", "auth clientCredentials needs “tokenUrl”");
        using var response = await PatientlyAsync(
                () =>
                    _client.SendAsync(
                        new HttpRequestMessage(HttpMethod.Post, address)
                        {
                            Content = new FormUrlEncodedContent(fields),
                            Headers = { Authorization = Basic() },
                        },
                        cancel
                    ),
                _ => { },
                cancel
            )
            .ConfigureAwait(false);
        if (!response.IsSuccessStatusCode)
        {
            throw new StepFailedException(
                (int)response.StatusCode is >= 500 or 429 ? "status" : "login",
                $"{address} gives no token: {(int)response.StatusCode} {response.ReasonPhrase}"
            );
        }
        try
        {
            using var answer = JsonDocument.Parse(
                await response.Content.ReadAsStringAsync(cancel).ConfigureAwait(false)
            );
            var token = answer.RootElement.GetProperty("access_token").GetString()!;
            _secrets?.Hide(token);
            return token;
        }
        catch (Exception e) when (e is JsonException or KeyNotFoundException or InvalidOperationException)
        {
            throw new StepFailedException("login", $"{_settings.TokenUrl} gives an answer without “access_token”");
        }
    }

    /// <summary>Sends, and sends again once or twice when the server asks for patience that can be had.</summary>
    /// <param name="send">Sends a request of its own each time.</param>
    /// <param name="waits">Told how long is waited.</param>
    public async Task<HttpResponseMessage> PatientlyAsync(
        Func<Task<HttpResponseMessage>> send,
        Action<TimeSpan> waits,
        CancellationToken cancel
    )
    {
        for (var again = 0; ; again++)
        {
            var response = await send().ConfigureAwait(false);
            if (
                again == 2
                || (int)response.StatusCode is not (429 or 503)
                || Patience(response, _time) is not { } wait
                || wait > LongestWait
            )
            {
                return response;
            }
            response.Dispose();
            waits(wait);
            await Task.Delay(wait, _time, cancel).ConfigureAwait(false);
        }
    }

    /// <summary>How long a server asks to wait; null when it does not.</summary>
    /// <remarks>Source: Retry-After, RFC 9110 section 10.2.3.</remarks>
    public static TimeSpan? Patience(HttpResponseMessage response, TimeProvider time) =>
        response.Headers.RetryAfter switch
        {
            { Delta: { } delta } => delta,
            { Date: { } date } => date - time.GetUtcNow() is { Ticks: > 0 } left ? left : TimeSpan.Zero,
            _ => null,
        };

    public void Dispose() => _client.Dispose();
}
