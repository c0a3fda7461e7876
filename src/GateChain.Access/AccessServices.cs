using GateChain.Access.Audit;
using GateChain.Access.Basics;
using GateChain.Access.People;
using GateChain.Access.Sessions;
using GateChain.Access.Tokens;
using GateChain.Core.Access;
using GateChain.Core.Identity;
using GateChain.Storage;
using Microsoft.Extensions.Logging;

namespace GateChain.Access;

/// <summary>Who may use the service, put together. Thread-safe.</summary>
public sealed class AccessServices : IAsyncDisposable
{
    readonly AccessState _state;
    readonly TimeProvider _time;
    readonly ILogger _logger;
    readonly ISecretCipher _cipher;
    ITimer? _tidying;

    /// <param name="store">Where it is kept.</param>
    /// <param name="audit">Where changes, sign-ins and refusals are written down.</param>
    /// <param name="cipher">How what nobody is shown is encrypted.</param>
    /// <param name="time">The clock.</param>
    /// <param name="logger">Where trouble is told, and seals are anchored.</param>
    public AccessServices(
        IAccessStore store,
        IAuditLog audit,
        ISecretCipher cipher,
        TimeProvider time,
        ILogger<AccessServices> logger
    )
    {
        (_state, _time, _logger, _cipher) = (new(store), time, logger, cipher);
        Settings = new(_state, time);
        People = new(_state, cipher, time);
        SignIn = new(_state, Settings, cipher, audit, time);
        Sessions = new(_state, Settings, time);
        Tokens = new(_state, time);
        Devices = new(Tokens, time);
        Sealer = new(audit, logger);
    }

    /// <summary>What an admin has set.</summary>
    public AccessSettings Settings { get; }

    /// <summary>The people who may sign in.</summary>
    public AccountService People { get; }

    /// <summary>Finds out who somebody is.</summary>
    public SignInService SignIn { get; }

    /// <summary>Who has signed in with a browser.</summary>
    public SessionService Sessions { get; }

    /// <summary>What programs show.</summary>
    public TokenService Tokens { get; }

    /// <summary>Lets the command line in.</summary>
    public DeviceSignIn Devices { get; }

    /// <summary>Seals the audit log.</summary>
    public AuditSealer Sealer { get; }

    /// <summary>What steps of an area may use: everything while there are no accounts.</summary>
    public AreaRules RulesOf(Area area) => People.AreThere ? AreaRules.Of(Settings.Rules, area) : AreaRules.Open;

    /// <summary>
    /// Holds the key of this service to that of the others with which it shares what is stored: the first one leaves
    /// something that can be read with its key only.
    /// </summary>
    /// <param name="name">Under which name.</param>
    /// <exception cref="StorageException">It has another key, or what is stored can't be written.</exception>
    public async Task ProveKeyAsync(string name)
    {
        await _state.LoadAsync().ConfigureAwait(false);
        if (!_state.Settings.TryGetValue(name, out var proof))
        {
            var line = new AuditLine(_time.GetUtcNow(), new(ActorKind.Service, "start", "the start"), "set", name);
            await _state.ChangeAsync(s => s.SetAsync(name, _cipher.Encrypt(name), line)).ConfigureAwait(false);
            return;
        }
        string? read;
        try
        {
            read = _cipher.Decrypt(proof);
        }
        catch (Exception e)
            when (e is System.Security.Cryptography.CryptographicException or FormatException or ArgumentException)
        {
            read = null;
        }
        if (read != name)
        {
            throw new StorageException(
                "this service has another key than those that it shares the database with: it could read none of their "
                    + "secrets",
                null
            );
        }
    }

    /// <summary>Reads again what is stored: another service has changed it.</summary>
    public Task ReloadAsync() => _state.LoadAsync();

    /// <summary>Reads what is stored; before anybody asks.</summary>
    public async Task StartAsync()
    {
        await _state.LoadAsync().ConfigureAwait(false);
        Sealer.Start(_time);
        var minute = TimeSpan.FromMinutes(1);
        _tidying = _time.CreateTimer(_ => _ = TidyAsync(), null, minute, minute);
    }

    async Task TidyAsync()
    {
        try
        {
            await Sessions.TidyAsync().ConfigureAwait(false);
            await Tokens.TidyAsync().ConfigureAwait(false);
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            _logger.LogWarning("When sessions and tokens were used could not be stored: {Reason}", e.Message);
        }
    }

    public async ValueTask DisposeAsync()
    {
        if (_tidying is not null)
            await _tidying.DisposeAsync().ConfigureAwait(false);
        await TidyAsync().ConfigureAwait(false);
        await Sealer.DisposeAsync().ConfigureAwait(false);
        _state.Dispose();
    }
}
