using GateChain.Access.Basics;
using GateChain.Core.Access;
using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Storage;
using Microsoft.AspNetCore.Identity;

namespace GateChain.Access.People;

/// <summary>
/// The people who may sign in: who they are, what they may do, their passwords and codes. Thread-safe.
/// </summary>
public sealed class AccountService
{
    static readonly TimeSpan LinkHolds = TimeSpan.FromHours(24);

    readonly AccessState _state;
    readonly ISecretCipher _cipher;
    readonly TimeProvider _time;

    internal AccountService(AccessState state, ISecretCipher cipher, TimeProvider time) =>
        (_state, _cipher, _time) = (state, cipher, time);

    internal static PasswordHasher<string> Hasher { get; } = new();

    /// <summary>Whether people sign in: there is an account.</summary>
    public bool AreThere => _state.Accounts.Count > 0;

    /// <summary>All of them, by name.</summary>
    public IReadOnlyList<Account> All =>
        [.. _state.Accounts.Values.OrderBy(a => a.Name, StringComparer.OrdinalIgnoreCase)];

    /// <summary>What somebody may do.</summary>
    public Rights RightsOf(Account account) => _state.RightsOf(account.Id);

    /// <summary>The account of an id; null for none.</summary>
    public Account? Find(string id) => _state.Accounts.GetValueOrDefault(id);

    /// <summary>The account of a name.</summary>
    /// <exception cref="AccessException">There is none.</exception>
    public Account Named(string name) =>
        _state.Named(name) ?? throw new AccessException(RefusalKind.NotFound, $"there is no account “{name}”");

    /// <summary>Who somebody is to runs and the audit log.</summary>
    public static Actor ActorOf(Account account) => new(ActorKind.Person, account.Id, account.Name);

    /// <summary>Makes an account.</summary>
    /// <returns>The account, and what its one-time link holds: with it they choose a password.</returns>
    /// <exception cref="AccessException">The name can't be taken, or it is the first and no admin.</exception>
    /// <exception cref="StorageException">It could not be stored.</exception>
    public async Task<(Account Account, string Link)> AddAsync(
        string name,
        string? fullName,
        IReadOnlyList<Grant> grants,
        Actor by
    )
    {
        var account = await SaveNewAsync(New(name, fullName, grants), by).ConfigureAwait(false);
        return (account, await NewLinkAsync(account.Id, null).ConfigureAwait(false));
    }

    /// <summary>Makes the first account, by who has the link that the service prints.</summary>
    /// <exception cref="AccessException">The link, the name or the password can't be taken.</exception>
    /// <exception cref="StorageException">It could not be stored.</exception>
    public async Task<Account> AddFirstAsync(string link, string name, string password, string? source)
    {
        if (AreThere || await FindLinkAsync(link).ConfigureAwait(false) is not { Account: null } found)
            throw LinkIsOver();
        RefuseWeak(password, name);
        var account = New(name, null, [new(Role.Admin, Area.Root)]) with
        {
            PasswordHash = Hasher.HashPassword("", password),
        };
        await TakeAsync(found).ConfigureAwait(false);
        return await SaveNewAsync(account, ActorOf(account) with { Source = source, Through = "first-start link" })
            .ConfigureAwait(false);
    }

    async Task<Account> SaveNewAsync(Account account, Actor by)
    {
        if (!AreThere && account.Grants.All(g => g.Role != Role.Admin))
        {
            throw new AccessException(
                RefusalKind.Invalid,
                "the first account is an admin: from then on people sign in, and nobody else could add anybody"
            );
        }
        var line = new AuditLine(_time.GetUtcNow(), by, "add", $"account {account.Name}", GrantsText(account.Grants));
        if (!await _state.ChangeAsync(s => s.SaveAsync(account, line)).ConfigureAwait(false))
            throw new AccessException(RefusalKind.Conflict, $"the name “{account.Name}” is taken");
        return account;
    }

    internal static string GrantsText(IReadOnlyList<Grant> grants) =>
        grants.Count == 0 ? "no role" : string.Join(", ", grants);

    Account New(string name, string? fullName, IReadOnlyList<Grant> grants)
    {
        RefuseName(name);
        return new(RandomText.Id(), name, grants, _time.GetUtcNow()) { FullName = Trimmed(fullName) };
    }

    static void RefuseName(string name)
    {
        if (
            name.Length is < 2 or > 64
            || !char.IsAsciiLetterOrDigit(name[0])
            || !name.All(c => char.IsAsciiLetterOrDigit(c) || c is '.' or '-' or '_' or '@')
        )
        {
            throw new AccessException(
                RefusalKind.Invalid,
                $"“{name}” can't be the name of an account: that is 2 to 64 letters, digits, and . - _ @, "
                    + "a letter or digit first"
            );
        }
    }

    static string? Trimmed(string? text)
    {
        var plain = new string([.. (text ?? "").Where(c => !char.IsControl(c))]).Trim();
        return plain.Length == 0 ? null : plain[..Math.Min(plain.Length, 200)];
    }

    static void RefuseWeak(string password, string name)
    {
        if (PasswordRules.Problem(password, name) is { } problem)
            throw new AccessException(RefusalKind.Invalid, problem);
    }

    /// <summary>Gives somebody other roles.</summary>
    /// <exception cref="AccessException">Nobody would be an admin any more.</exception>
    /// <exception cref="StorageException">It could not be stored.</exception>
    public Task SetGrantsAsync(Account account, IReadOnlyList<Grant> grants, Actor by)
    {
        IReadOnlyList<Grant> after = [.. grants.Distinct()];
        if (account.Issuer is not null)
        {
            throw new AccessException(
                RefusalKind.Conflict,
                $"the roles of “{account.Name}” come from {account.Issuer}, by the table in the sign-in settings"
            );
        }
        RefuseWithoutAdmin(account, after.Any(g => g.Role == Role.Admin));
        return ChangeAsync(
            account,
            a => a with { Grants = after },
            by,
            "set roles",
            $"{GrantsText(account.Grants)} → {GrantsText(after)}"
        );
    }

    // Somebody who may still sign in has to be one.
    void RefuseWithoutAdmin(Account account, bool stays)
    {
        if (
            !stays
            && _state.Accounts.Values.All(a =>
                a.Id == account.Id || a.Disabled || a.Grants.All(g => g.Role != Role.Admin)
            )
        )
        {
            throw new AccessException(
                RefusalKind.Conflict,
                $"“{account.Name}” is the only admin: make somebody else one first"
            );
        }
    }

    /// <summary>Keeps somebody out, or lets them in again; their sessions end at once.</summary>
    /// <exception cref="AccessException">Nobody would be an admin any more.</exception>
    /// <exception cref="StorageException">It could not be stored.</exception>
    public async Task SetDisabledAsync(Account account, bool disabled, Actor by)
    {
        if (disabled)
            RefuseWithoutAdmin(account, stays: false);
        await ChangeAsync(account, a => a with { Disabled = disabled }, by, disabled ? "disable" : "enable", null)
            .ConfigureAwait(false);
        if (disabled)
            await EndSessionsAsync(account.Id, by).ConfigureAwait(false);
    }

    /// <summary>Takes an account away, with its tokens; what it did stays in the audit log.</summary>
    /// <exception cref="AccessException">Nobody would be an admin any more.</exception>
    /// <exception cref="StorageException">It could not be stored.</exception>
    public Task RemoveAsync(Account account, Actor by)
    {
        RefuseWithoutAdmin(account, stays: false);
        return _state.ChangeAsync(s => s.RemoveAsync(account.Id, Line(by, "remove", account, null)));
    }

    /// <summary>
    /// Makes a one-time link with which somebody chooses a password; earlier ones don't count any more.
    /// </summary>
    /// <returns>What the link holds.</returns>
    /// <exception cref="AccessException">They sign in elsewhere.</exception>
    /// <exception cref="StorageException">It could not be stored.</exception>
    public Task<string> ResetAsync(Account account, Actor by) =>
        account.Issuer is null
            ? NewLinkAsync(account.Id, Line(by, "make link", account, null))
            : throw new AccessException(
                RefusalKind.Conflict,
                $"“{account.Name}” signs in at {account.Issuer} and has no password here"
            );

    /// <summary>The link for the first account of a service without any.</summary>
    /// <returns>What the link holds.</returns>
    public Task<string> FirstLinkAsync() => NewLinkAsync(null, null);

    async Task<string> NewLinkAsync(string? account, AuditLine? audit)
    {
        var link = RandomText.Secret();
        await _state
            .Store.AddAsync(new OneTimeLink(RandomText.Hash(link), account, _time.GetUtcNow() + LinkHolds), audit)
            .ConfigureAwait(false);
        return link;
    }

    async Task<OneTimeLink?> FindLinkAsync(string link) =>
        await _state.Store.FindLinkAsync(RandomText.Hash(link)).ConfigureAwait(false) is { } found
        && found.Expires > _time.GetUtcNow()
            ? found
            : null;

    async Task TakeAsync(OneTimeLink link)
    {
        if (!await _state.Store.TakeLinkAsync(link.Hash).ConfigureAwait(false))
            throw LinkIsOver();
    }

    static AccessException LinkIsOver() =>
        new(RefusalKind.NotFound, "this link was used already, or its time is over: ask an admin for another one");

    /// <summary>Whose link it is; null for the first account.</summary>
    /// <exception cref="AccessException">It is none that counts.</exception>
    public async Task<Account?> OfLinkAsync(string link)
    {
        var found = await FindLinkAsync(link).ConfigureAwait(false) ?? throw LinkIsOver();
        return found.Account is null
            ? AreThere
                ? throw LinkIsOver()
                : null
            : Find(found.Account) ?? throw LinkIsOver();
    }

    /// <summary>Sets the password of whose link it is; all their sessions end.</summary>
    /// <exception cref="AccessException">The link or the password can't be taken.</exception>
    /// <exception cref="StorageException">It could not be stored.</exception>
    public async Task SetByLinkAsync(string link, string password, string? source)
    {
        var account = await OfLinkAsync(link).ConfigureAwait(false) ?? throw LinkIsOver();
        RefuseWeak(password, account.Name);
        await TakeAsync((await FindLinkAsync(link).ConfigureAwait(false)) ?? throw LinkIsOver()).ConfigureAwait(false);
        await SetAsync(account, password, ActorOf(account) with { Source = source, Through = "one-time link" })
            .ConfigureAwait(false);
    }

    /// <summary>Sets one's own password; all one's sessions end.</summary>
    /// <exception cref="AccessException">The old one is wrong, or the new one can't be taken.</exception>
    /// <exception cref="StorageException">It could not be stored.</exception>
    public async Task SetPasswordAsync(Account account, string old, string password, Actor by)
    {
        Confirm(account, old);
        RefuseWeak(password, account.Name);
        await SetAsync(account, password, by).ConfigureAwait(false);
    }

    static void Confirm(Account account, string password)
    {
        if (
            account.PasswordHash is null
            || password.Length > PasswordRules.Most
            || Hasher.VerifyHashedPassword("", account.PasswordHash, password) == PasswordVerificationResult.Failed
        )
        {
            throw new AccessException(RefusalKind.Invalid, "the password that you have now is another one");
        }
    }

    async Task SetAsync(Account account, string password, Actor by)
    {
        var hash = Hasher.HashPassword("", password);
        await ChangeAsync(account, a => a with { PasswordHash = hash }, by, "set password", null).ConfigureAwait(false);
        await EndSessionsAsync(account.Id, by).ConfigureAwait(false);
    }

    async Task EndSessionsAsync(string account, Actor by)
    {
        var hashes = _state.Sessions.Values.Where(s => s.Account == account).Select(s => s.Hash).ToList();
        if (hashes.Count == 0)
            return;
        var line = new AuditLine(
            _time.GetUtcNow(),
            by,
            "end sessions",
            $"account {Find(account)?.Name}",
            hashes.Count == 1 ? "1 session" : $"{hashes.Count} sessions"
        );
        await _state.ChangeAsync(s => s.RemoveSessionsAsync(hashes, line)).ConfigureAwait(false);
    }

    /// <summary>Begins with one-time codes: what an authenticator needs. Nothing is stored.</summary>
    /// <returns>The secret to type, and the address to show as a picture.</returns>
    public static (string Secret, string Address) BeginCodes(Account account)
    {
        var secret = OneTimeCodes.NewSecret();
        return (secret, OneTimeCodes.AddressOf(secret, account.Name));
    }

    /// <summary>Turns one-time codes on, once the authenticator has shown a right one.</summary>
    /// <returns>Recovery codes to write down; they are not told again.</returns>
    /// <exception cref="AccessException">The code is none of this secret.</exception>
    /// <exception cref="StorageException">It could not be stored.</exception>
    public async Task<IReadOnlyList<string>> SetCodesAsync(Account account, string secret, string code, Actor by)
    {
        long? step;
        try
        {
            step = OneTimeCodes.StepOf(secret, code, 0, _time.GetUtcNow());
        }
        catch (ArgumentException)
        {
            step = null;
        }
        if (step is not { } taken)
        {
            throw new AccessException(
                RefusalKind.Invalid,
                "this is not the code of now: look again, and see that the clock of the device is right"
            );
        }
        var recovery = OneTimeCodes.NewRecovery();
        await ChangeAsync(
                account,
                a =>
                    a with
                    {
                        CodeCipher = _cipher.Encrypt(secret),
                        CodeStep = taken,
                        Recovery = [.. recovery.Select(OneTimeCodes.HashOf)],
                    },
                by,
                "turn on codes",
                null
            )
            .ConfigureAwait(false);
        return recovery;
    }

    /// <summary>Turns one's own codes off; who finds a browser open can't.</summary>
    /// <exception cref="AccessException">The password is wrong.</exception>
    /// <exception cref="StorageException">It could not be stored.</exception>
    public Task RemoveOwnCodesAsync(Account account, string password, Actor by)
    {
        Confirm(account, password);
        return RemoveCodesAsync(account, by);
    }

    /// <summary>Turns the codes of somebody off who has lost their device.</summary>
    /// <exception cref="StorageException">It could not be stored.</exception>
    public Task RemoveCodesAsync(Account account, Actor by) =>
        ChangeAsync(account, a => a with { CodeCipher = null, Recovery = [] }, by, "turn off codes", null);

    internal Task ChangeAsync(
        Account account,
        Func<Account, Account> change,
        Actor by,
        string action,
        string? detail
    ) =>
        _state.ChangeAsync(s =>
        {
            // As it is by now: somebody may have changed something else meanwhile.
            var now = Find(account.Id)
                ?? throw new AccessException(RefusalKind.NotFound, $"there is no account “{account.Name}” any more");
            return s.SaveAsync(change(now), Line(by, action, account, detail));
        });

    AuditLine Line(Actor by, string action, Account account, string? detail) =>
        new(_time.GetUtcNow(), by, action, $"account {account.Name}", detail);
}
