using System.Globalization;
using GateChain.Access.Basics;
using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Storage;
using Microsoft.AspNetCore.Identity;

namespace GateChain.Access.People;

/// <summary>What became of somebody who wants in.</summary>
/// <param name="Account">Who they are; null when they are not let in.</param>
/// <param name="Sentence">Why not; null when they are.</param>
/// <param name="NeedsCode">Whether the password is right and a one-time code is missing.</param>
/// <param name="Pause">How long they have to wait before the next try; null for not at all.</param>
public sealed record SignInResult(Account? Account, string? Sentence, bool NeedsCode = false, TimeSpan? Pause = null);

/// <summary>Finds out who somebody is. Thread-safe.</summary>
public sealed class SignInService
{
    readonly AccessState _state;
    readonly AccessSettings _settings;
    readonly ISecretCipher _cipher;
    readonly IAuditLog _audit;
    readonly TimeProvider _time;
    readonly Throttle _throttle;

    // What an unknown name is held against, so that it takes as long as a known one. It is made at the first try,
    // whoever that is of: a start doesn't wait for it, and the first try tells nothing.
    readonly Lazy<string> _nobody = new(() => AccountService.Hasher.HashPassword("", RandomText.Secret()));

    internal SignInService(
        AccessState state,
        AccessSettings settings,
        ISecretCipher cipher,
        IAuditLog audit,
        TimeProvider time
    ) => (_state, _settings, _cipher, _audit, _time, _throttle) = (state, settings, cipher, audit, time, new(time));

    // The same for whatever is wrong: who guesses learns nothing.
    const string Wrong = "name or password is wrong";

    /// <summary>Lets somebody in by name, password and, where they have them, a one-time code.</summary>
    /// <param name="name">What they typed as their name.</param>
    /// <param name="password">What they typed as their password.</param>
    /// <param name="code">A one-time or recovery code; null for none.</param>
    /// <param name="source">The address that they come from.</param>
    /// <exception cref="StorageException">It could not be stored.</exception>
    public async Task<SignInResult> ByPasswordAsync(string name, string password, string? code, string source)
    {
        if (_throttle.Pause(name, source) is var pause && pause > TimeSpan.Zero)
        {
            var seconds = (int)Math.Ceiling(pause.TotalSeconds);
            return new(
                null,
                string.Create(CultureInfo.InvariantCulture, $"too many failed tries: wait {seconds} s, then try again"),
                Pause: TimeSpan.FromSeconds(seconds)
            );
        }
        var account = _state.Named(name);
        var nobody = _nobody.Value;
        var hash = account?.PasswordHash ?? nobody;
        // Hashing takes a tenth of a second: what is far too long is not hashed at all.
        var verified =
            password.Length <= PasswordRules.Most
                ? AccountService.Hasher.VerifyHashedPassword("", hash, password)
                : PasswordVerificationResult.Failed;
        if (account?.PasswordHash is null || verified == PasswordVerificationResult.Failed || account.Disabled)
        {
            return await FailedAsync(
                    account,
                    name,
                    source,
                    account is null ? "unknown name" : Reason(account, verified)
                )
                .ConfigureAwait(false);
        }
        if (verified == PasswordVerificationResult.SuccessRehashNeeded)
            account = account with { PasswordHash = AccountService.Hasher.HashPassword("", password) };
        if (account.CodeCipher is not null)
        {
            if (string.IsNullOrWhiteSpace(code))
                return new(null, "a one-time code is needed too", NeedsCode: true);
            if (!await TakeCodeAsync(account, code).ConfigureAwait(false))
            {
                var failed = await FailedAsync(account, name, source, "wrong code").ConfigureAwait(false);
                return failed with { Sentence = "this code is wrong, or was used already", NeedsCode = true };
            }
        }
        _throttle.Succeeded(name);
        return new(account, null);
    }

    static string Reason(Account account, PasswordVerificationResult verified) =>
        account.PasswordHash is null ? "no password here"
        : verified == PasswordVerificationResult.Failed ? "wrong password"
        : "disabled";

    // Looked at and stored in one go: of two who show the same code one gets in.
    Task<bool> TakeCodeAsync(Account account, string code) =>
        _state.ChangeAsync(async store =>
            _state.Accounts.GetValueOrDefault(account.Id) is { } now
            && OneTimeCodes.Take(now, code, _cipher, _time.GetUtcNow()) is { } after
            && await store.SaveAsync(after, null).ConfigureAwait(false)
        );

    async Task<SignInResult> FailedAsync(Account? account, string name, string source, string why)
    {
        _throttle.Failed(name, source);
        // A name that nobody has may be a password that was typed in the wrong field: it is not kept.
        var by = account is null ? Actor.Person("nobody") : AccountService.ActorOf(account);
        await _audit
            .AddAsync([
                new(
                    _time.GetUtcNow(),
                    by with
                    {
                        Source = source,
                        Through = "password",
                    },
                    "refuse sign-in",
                    account is null ? "account" : $"account {account.Name}",
                    why
                ),
            ])
            .ConfigureAwait(false);
        return new(null, Wrong);
    }

    /// <summary>Lets somebody in whom the OpenID provider has named; an account is made at the first time.</summary>
    /// <param name="subject">What the provider calls them, for good.</param>
    /// <param name="name">What they are called there.</param>
    /// <param name="fullName">Their name in full; null when it does not say.</param>
    /// <param name="values">The values of the claim that gives roles.</param>
    /// <param name="source">The address that they come from.</param>
    /// <exception cref="AccessException">No role is given to them.</exception>
    /// <exception cref="StorageException">It could not be stored.</exception>
    public async Task<Account> ByProviderAsync(
        string subject,
        string name,
        string? fullName,
        IReadOnlyList<string> values,
        string source
    )
    {
        var provider = _settings.SignIn.Provider
            ?? throw new AccessException(RefusalKind.NotFound, "nobody signs in with a provider here");
        var grants = provider.GrantsOf(values);
        var known = _state.Accounts.Values.FirstOrDefault(a => a.Issuer == provider.Issuer && a.Subject == subject);
        if (grants.Count == 0 || known is { Disabled: true })
        {
            await _audit
                .AddAsync([
                    new(
                        _time.GetUtcNow(),
                        Actor.Person("nobody") with
                        {
                            Source = source,
                            Through = provider.Name,
                        },
                        "refuse sign-in",
                        "account",
                        known is { Disabled: true } ? $"{known.Name} is disabled" : "no role"
                    ),
                ])
                .ConfigureAwait(false);
            throw new AccessException(
                RefusalKind.Conflict,
                $"{provider.Name} knows you, but none of your groups has a role here: ask an admin of this service"
            );
        }
        var account = known is null
            ? new(RandomText.Id(), FreeName(name, provider), grants, _time.GetUtcNow())
            {
                FullName = fullName,
                Issuer = provider.Issuer,
                Subject = subject,
            }
            : known with
            {
                Grants = grants,
                FullName = fullName ?? known.FullName,
            };
        if (known is null || !known.Grants.SequenceEqual(grants))
        {
            var line = new AuditLine(
                _time.GetUtcNow(),
                AccountService.ActorOf(account) with
                {
                    Source = source,
                    Through = provider.Name,
                },
                known is null ? "add" : "set roles",
                $"account {account.Name}",
                known is null
                    ? AccountService.GrantsText(grants)
                    : $"{AccountService.GrantsText(known.Grants)} → {AccountService.GrantsText(grants)}"
            );
            await _state.ChangeAsync(s => s.SaveAsync(account, line)).ConfigureAwait(false);
        }
        return account;
    }

    string FreeName(string name, ProviderSettings provider)
    {
        var plain = new string([
            .. name.Select(c => char.IsAsciiLetterOrDigit(c) || c is '.' or '-' or '_' or '@' ? c : '-'),
        ]).Trim('-', '.', '_', '@');
        if (plain.Length < 2)
            plain = "somebody";
        plain = plain[..Math.Min(plain.Length, 40)];
        var host = new Uri(provider.Issuer).Host;
        // What is there already is somebody else.
        return Enumerable
            .Range(0, 1_000)
            .Select(n =>
                n == 0 ? plain
                : n == 1 ? $"{plain}@{host}"
                : $"{plain}-{n}"
            )
            .First(n => _state.Named(n) is null);
    }
}
