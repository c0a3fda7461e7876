using System.Collections.Concurrent;
using System.Security.Cryptography;
using GateChain.Access.Basics;
using GateChain.Core.Access;
using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Storage;

namespace GateChain.Access.Tokens;

/// <summary>How a program stands that asks to be let in.</summary>
public enum DeviceState
{
    /// <summary>Nobody has decided yet.</summary>
    Pending,

    /// <summary>It asks too often: it should wait longer between.</summary>
    SlowDown,

    /// <summary>Somebody said no.</summary>
    Denied,

    /// <summary>Nobody decided in time, or there is no such question.</summary>
    Expired,

    /// <summary>It is let in; told once.</summary>
    Granted,
}

/// <summary>A program that asks to be let in.</summary>
/// <param name="UserCode">What the person is shown, and types.</param>
/// <param name="Client">What the program says it is and where it runs.</param>
/// <param name="Source">The address that it asks from.</param>
/// <param name="Expires">Until when it waits.</param>
public sealed record DeviceRequest(string UserCode, string Client, string Source, DateTimeOffset Expires);

/// <summary>
/// Lets the command line in: it shows a code, the person confirms it in a browser where they are signed in. What waits
/// is kept in memory: after a restart one begins again. Thread-safe.
/// </summary>
/// <remarks>Source: RFC 8628.</remarks>
public sealed class DeviceSignIn
{
    /// <summary>How long a question waits for its answer.</summary>
    public static TimeSpan Waits { get; } = TimeSpan.FromMinutes(10);

    /// <summary>How long the program waits between two looks.</summary>
    public static TimeSpan Interval { get; } = TimeSpan.FromSeconds(2);

    // What nobody has signed in for is bounded.
    const int MostWaiting = 200;

    static readonly TimeSpan TokenHolds = TimeSpan.FromDays(30);

    sealed class Waiting(DeviceRequest request)
    {
        public DeviceRequest Request => request;
        public DateTimeOffset Looked { get; set; }
        public bool Denied { get; set; }
        public string? Secret { get; set; }
    }

    readonly TokenService _tokens;
    readonly TimeProvider _time;

    // By the hash of the device code.
    readonly ConcurrentDictionary<string, Waiting> _waiting = new();

    internal DeviceSignIn(TokenService tokens, TimeProvider time) => (_tokens, _time) = (tokens, time);

    /// <summary>Begins: gives the code that the program keeps, and the one that it shows.</summary>
    /// <exception cref="AccessException">Too many wait already.</exception>
    public (string DeviceCode, DeviceRequest Request) Begin(string client, string source)
    {
        var now = _time.GetUtcNow();
        foreach (var (hash, old) in _waiting)
        {
            if (old.Request.Expires <= now)
                _waiting.TryRemove(hash, out _);
        }
        if (_waiting.Count >= MostWaiting)
            throw new AccessException(RefusalKind.Unavailable, "too many programs ask to be let in: try again later");
        var device = RandomText.Secret();
        // No vowels, so that no words come of it; nothing that looks like something else.
        var code = RandomNumberGenerator.GetString("BCDFGHJKLMNPQRSTVWXZ", 8);
        var plain = new string([.. client.Where(c => !char.IsControl(c)).Take(100)]);
        var request = new DeviceRequest($"{code[..4]}-{code[4..]}", plain, source, now + Waits);
        _waiting[RandomText.Hash(device)] = new(request);
        return (device, request);
    }

    /// <summary>The question of a code that somebody typed.</summary>
    /// <exception cref="AccessException">There is none.</exception>
    public DeviceRequest OfCode(string userCode) => Find(userCode).Request;

    Waiting Find(string userCode)
    {
        var plain = new string([.. userCode.ToUpperInvariant().Where(char.IsAsciiLetter)]);
        var now = _time.GetUtcNow();
        return _waiting.Values.FirstOrDefault(w =>
            w.Request.UserCode.Replace("-", "", StringComparison.Ordinal) == plain
            && w.Request.Expires > now
            && w is { Denied: false, Secret: null }
        )
            ?? throw new AccessException(
                RefusalKind.NotFound,
                "no program waits with this code: look again, or begin anew"
            );
    }

    /// <summary>Lets the program of a code in, as somebody: with a token of theirs that holds 30 days.</summary>
    /// <exception cref="AccessException">There is none.</exception>
    /// <exception cref="StorageException">It could not be stored.</exception>
    public async Task GrantAsync(string userCode, Account account, IReadOnlyList<Grant> grants, Actor by)
    {
        var waiting = Find(userCode);
        var (_, secret) = await _tokens
            .AddAsync(account, $"command line: {waiting.Request.Client}", grants, TokenHolds, by)
            .ConfigureAwait(false);
        lock (waiting)
            waiting.Secret = secret;
    }

    /// <summary>Keeps the program of a code out.</summary>
    /// <exception cref="AccessException">There is none.</exception>
    public void Deny(string userCode) => Find(userCode).Denied = true;

    /// <summary>How the program of a device code stands, and its token when it is let in: told once.</summary>
    public (DeviceState State, string? Token) Look(string deviceCode)
    {
        var hash = RandomText.Hash(deviceCode);
        var now = _time.GetUtcNow();
        if (!_waiting.TryGetValue(hash, out var waiting))
            return (DeviceState.Expired, null);
        lock (waiting)
        {
            if (waiting.Secret is { } secret)
                return _waiting.TryRemove(hash, out _) ? (DeviceState.Granted, secret) : (DeviceState.Expired, null);
            if (waiting.Denied || waiting.Request.Expires <= now)
            {
                _waiting.TryRemove(hash, out _);
                return (waiting.Denied ? DeviceState.Denied : DeviceState.Expired, null);
            }
            // A little grace: clocks and networks are not exact.
            var tooSoon = now - waiting.Looked < Interval - TimeSpan.FromSeconds(1);
            waiting.Looked = now;
            return (tooSoon ? DeviceState.SlowDown : DeviceState.Pending, null);
        }
    }
}
