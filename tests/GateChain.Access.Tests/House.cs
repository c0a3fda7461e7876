using GateChain.Access;
using GateChain.Access.People;
using GateChain.Core.Access;
using GateChain.Core.Identity;
using GateChain.Storage;
using GateChain.Storage.Sqlite;
using Microsoft.Extensions.Logging.Abstractions;
using Microsoft.Extensions.Time.Testing;

namespace GateChain.Access.Tests;

/// <summary>Everything about access on a store of its own, with a clock that stands still until it is turned.</summary>
sealed class House : IAsyncDisposable
{
    readonly TempFolder _folder = new();

    public House() => Store = new(_folder["gatechain.db"]);

    public const string Password = "cows give milk daily";

    public SqliteStore Store { get; private set; }
    public FakeTimeProvider Time { get; } = new(new(2026, 11, 29, 6, 0, 0, TimeSpan.Zero));
    public AccessServices Access { get; private set; } = null!;

    public static Actor Me { get; } = Actor.Person("test");

    public static async Task<House> NewAsync()
    {
        var house = new House();
        await house.StartAsync();
        return house;
    }

    async Task StartAsync()
    {
        Access = new(Store.Access, Store.Audit, new Cipher(), Time, NullLogger<AccessServices>.Instance);
        await Access.StartAsync();
    }

    /// <summary>The same after a restart: what was only in memory is gone.</summary>
    public async Task RestartAsync()
    {
        await Access.DisposeAsync();
        await Store.DisposeAsync();
        Store = new(_folder["gatechain.db"]);
        await StartAsync();
    }

    /// <summary>Somebody with a password.</summary>
    public async Task<Account> AddAsync(string name, params string[] roles)
    {
        var (_, link) = await Access.People.AddAsync(name, null, Grants(roles), Me);
        await Access.People.SetByLinkAsync(link, Password, "10.0.0.9");
        return Access.People.Named(name);
    }

    public static IReadOnlyList<Grant> Grants(params string[] roles) =>
        [.. roles.Select(r => Grant.Parse(r).Grant!.Value)];

    public Task<SignInResult> SignInAsync(
        string name,
        string password,
        string? code = null,
        string from = "10.0.0.9"
    ) => Access.SignIn.ByPasswordAsync(name, password, code, from);

    public async Task<IReadOnlyList<string>> AuditAsync() =>
        [.. (await Store.Audit.AfterAsync(0, 1000)).Select(e => $"{e.Line.By.Name}: {e.Line.Action} {e.Line.Object}")];

    public async ValueTask DisposeAsync()
    {
        await Access.DisposeAsync();
        await Store.DisposeAsync();
        _folder.Dispose();
    }

    sealed class Cipher : ISecretCipher
    {
        public string Encrypt(string value) => new([.. value.Reverse()]);

        public string Decrypt(string cipher) => new([.. cipher.Reverse()]);
    }
}
