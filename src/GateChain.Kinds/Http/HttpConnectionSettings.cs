using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Http;

/// <summary>A connection of type <c>http</c>.</summary>
public sealed record HttpConnectionSettings
{
    [Setting(
        "The address that paths are appended to, for example `https://lab.larkmoor.example/api/`.",
        Required = true
    )]
    public string Url { get; init; } = "";

    [Setting(
        "How requests say who asks: `none`, `basic` (`user`, `password`), `bearer` (`token`), "
            + "or `clientCredentials` (`tokenUrl`, `user`, `password`: OAuth 2.0, RFC 6749 section 4.4)."
    )]
    public HttpAuth Auth { get; init; } = HttpAuth.None;

    [Setting("The user's name, or the client's.")]
    public string? User { get; init; }

    [Setting("The password, or the client's secret, as `secret:name`.", Secret = true)]
    public string? Password { get; init; }

    [Setting("The token for `bearer`, as `secret:name`.", Secret = true)]
    public string? Token { get; init; }

    [Setting("Where `clientCredentials` gets its token.")]
    public string? TokenUrl { get; init; }

    [Setting("What `clientCredentials` asks to be allowed.")]
    public string? Scope { get; init; }

    [Setting("Headers of every request; values may be `secret:name`.", Secret = true)]
    public IReadOnlyDictionary<string, string> Headers { get; init; } = new Dictionary<string, string>();

    [Setting("How long one request may take.")]
    public TimeSpan Timeout { get; init; } = TimeSpan.FromSeconds(100);
}

public enum HttpAuth
{
    None,
    Basic,
    Bearer,
    ClientCredentials,
}
