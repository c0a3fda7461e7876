using GateChain.Core.Access;

namespace GateChain.Storage;

/// <summary>Somebody who signs in.</summary>
/// <param name="Id">Names them for good; never given again.</param>
/// <param name="Name">What they sign in with and are called; one account has it, whatever the case of letters.</param>
/// <param name="Grants">Their roles.</param>
/// <param name="Created">Since when there is the account.</param>
public sealed record Account(string Id, string Name, IReadOnlyList<Grant> Grants, DateTimeOffset Created)
{
    /// <summary>Their name in full; null when nobody said it.</summary>
    public string? FullName { get; init; }

    /// <summary>The hash of their password; null for none.</summary>
    public string? PasswordHash { get; init; }

    /// <summary>Who else says who they are: the issuer of an OpenID provider; null for an account of the service's
    /// own.</summary>
    public string? Issuer { get; init; }

    /// <summary>What that provider calls them.</summary>
    public string? Subject { get; init; }

    /// <summary>What their one-time codes are made from, encrypted; null when they have none.</summary>
    public string? CodeCipher { get; init; }

    /// <summary>The time step of the last code that was taken: none counts twice.</summary>
    public long CodeStep { get; init; }

    /// <summary>Hashes of the recovery codes that are left.</summary>
    public IReadOnlyList<string> Recovery { get; init; } = [];

    /// <summary>Whether they are kept out.</summary>
    public bool Disabled { get; init; }

    /// <summary>When they signed in last; null for never.</summary>
    public DateTimeOffset? SignedIn { get; init; }
}

/// <summary>What a program shows to be let in.</summary>
/// <param name="Id">Names it for good, and is no secret.</param>
/// <param name="Hash">The hash of what is shown, in hexadecimal.</param>
/// <param name="Account">Whose it is; it never allows more than they may.</param>
/// <param name="Name">What it is for.</param>
/// <param name="Grants">What it allows.</param>
/// <param name="Expires">Until when; null for as long as it is not revoked.</param>
public sealed record AccessToken(
    string Id,
    string Hash,
    string Account,
    string Name,
    IReadOnlyList<Grant> Grants,
    DateTimeOffset Created,
    DateTimeOffset? Expires
)
{
    /// <summary>When it was last used, to the minute; null for never.</summary>
    public DateTimeOffset? Used { get; init; }
}

/// <summary>Somebody who has signed in with a browser.</summary>
/// <param name="Hash">The hash of what the browser shows, in hexadecimal.</param>
/// <param name="Account">Who.</param>
/// <param name="Began">When they signed in.</param>
/// <param name="Seen">When they last did something, to the minute.</param>
/// <param name="From">The address that they came from.</param>
/// <param name="Agent">What their browser says of itself, in short.</param>
public sealed record Session(
    string Hash,
    string Account,
    DateTimeOffset Began,
    DateTimeOffset Seen,
    string From,
    string Agent
);

/// <summary>An address that lets somebody in once, to choose a password.</summary>
/// <param name="Hash">The hash of what the address holds, in hexadecimal.</param>
/// <param name="Account">Whose password; null for the first account of a service.</param>
/// <param name="Expires">Until when.</param>
public sealed record OneTimeLink(string Hash, string? Account, DateTimeOffset Expires);

/// <summary>Everything about access that is looked at with each request.</summary>
/// <param name="Settings">Texts by name: JSON of whoever set them.</param>
public sealed record AccessContent(
    IReadOnlyList<Account> Accounts,
    IReadOnlyList<AccessToken> Tokens,
    IReadOnlyList<Session> Sessions,
    IReadOnlyDictionary<string, string> Settings
);

/// <summary>
/// Who may use the service. Every change comes with its line of the audit log, in one transaction. Thread-safe.
/// </summary>
public interface IAccessStore
{
    /// <summary>All of it.</summary>
    ValueTask<AccessContent> LoadAsync();

    /// <summary>Saves an account in the place of the one of its id.</summary>
    /// <param name="account">The account.</param>
    /// <param name="audit">Who changed it; null for what people do by signing in, which is told by itself.</param>
    /// <returns>False when another account has the name, or the provider's name for them; nothing is stored
    /// then.</returns>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task<bool> SaveAsync(Account account, AuditLine? audit);

    /// <summary>Takes an account away, with its tokens, sessions and links.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task RemoveAsync(string account, AuditLine audit);

    /// <summary>Saves a new token.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task AddAsync(AccessToken token, AuditLine audit);

    /// <summary>Takes a token away.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task RemoveTokenAsync(string id, AuditLine audit);

    /// <summary>Saves a new session.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task AddAsync(Session session, AuditLine audit);

    /// <summary>Takes sessions away.</summary>
    /// <param name="hashes">Which.</param>
    /// <param name="audit">Who ended them; null for those whose time was over.</param>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task RemoveSessionsAsync(IReadOnlyCollection<string> hashes, AuditLine? audit);

    /// <summary>Notes when tokens (by id) and sessions (by hash) were last used.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task TouchAsync(
        IReadOnlyDictionary<string, DateTimeOffset> tokens,
        IReadOnlyDictionary<string, DateTimeOffset> sessions
    );

    /// <summary>Saves a link, in the place of earlier ones for the same account.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task AddAsync(OneTimeLink link, AuditLine? audit);

    /// <summary>A link that has not been taken; null for none.</summary>
    ValueTask<OneTimeLink?> FindLinkAsync(string hash);

    /// <summary>Takes a link, so that nobody else can; false when it was taken before.</summary>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task<bool> TakeLinkAsync(string hash);

    /// <summary>Sets what the service does.</summary>
    /// <param name="name">The setting's name.</param>
    /// <param name="value">Its value; null takes it away.</param>
    /// <param name="audit">Who set it.</param>
    /// <exception cref="StorageException">It could not be written.</exception>
    Task SetAsync(string name, string? value, AuditLine audit);
}
