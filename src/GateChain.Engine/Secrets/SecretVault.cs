using System.Collections.Frozen;
using System.Security.Cryptography;
using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Engine.Basics;
using GateChain.Kinds.Connections;
using GateChain.Storage;

namespace GateChain.Engine.Secrets;

/// <summary>A secret without its value.</summary>
/// <param name="Area">The folder of the workspace that may use it, and those below.</param>
/// <param name="Author">Who set it last.</param>
/// <param name="Readable">Whether the key at hand is the one that it was encrypted with.</param>
public sealed record SecretEntry(string Name, Area Area, string Author, DateTimeOffset Changed, bool Readable);

/// <summary>
/// The secrets: they can be set and used, not read. Each belongs to a folder of the workspace, and is used there and
/// below. Thread-safe.
/// </summary>
public sealed class SecretVault : IDisposable
{
    const int MostCharacters = 65_536;

    readonly ISecretStore _store;
    readonly ISecretCipher _cipher;
    readonly SecretFiles _files;
    readonly TimeProvider _time;
    readonly SemaphoreSlim _changing = new(1, 1);
    volatile Content _content;

    sealed record Content(
        FrozenDictionary<string, string> Values,
        FrozenDictionary<string, SecretEntry> Named,
        SecretMask Mask
    );

    internal SecretVault(ISecretStore store, ISecretCipher cipher, string? files, TimeProvider time)
    {
        (_store, _cipher, _files, _time) = (store, cipher, new(files), time);
        _content = Read([]);
    }

    /// <summary>Reads them; once, before anybody asks.</summary>
    internal async Task LoadAsync()
    {
        var secrets = await _store.AllAsync().ConfigureAwait(false);
        lock (_learned)
        {
            _content = Read(secrets);
        }
    }

    Content Read(IReadOnlyList<StoredSecret> secrets)
    {
        var values = new Dictionary<string, string>();
        var entries = new List<SecretEntry>();
        foreach (var secret in secrets)
        {
            try
            {
                values[secret.Name] = _cipher.Decrypt(secret.Cipher);
            }
            // Another key than it was set with: it has to be set again, and everything else continues.
            catch (Exception e) when (e is CryptographicException or FormatException or ArgumentException) { }
            entries.Add(new(secret.Name, secret.Area, secret.Author, secret.Changed, values.ContainsKey(secret.Name)));
        }
        // A step that began with a value that was changed since may still say it.
        _known.UnionWith(values.Values);
        return new(values.ToFrozenDictionary(), entries.ToFrozenDictionary(e => e.Name), new(_known.Concat(_learned)));
    }

    /// <summary>How many values that were got while working are kept in mind.</summary>
    const int MostLearned = 256;

    // Both are changed under a lock of their own: values are also learned while secrets change.
    readonly HashSet<string> _known = [];
    readonly Queue<string> _learned = [];

    /// <summary>Hides a value that was only got while working. The latest 256 are kept in mind.</summary>
    public void Hide(string value)
    {
        lock (_learned)
        {
            if (_known.Contains(value) || _learned.Contains(value))
                return;
            if (_learned.Count == MostLearned)
                _learned.Dequeue();
            _learned.Enqueue(value);
            _content = _content with { Mask = new(_known.Concat(_learned)) };
        }
    }

    /// <summary>All of them but those in files.</summary>
    public IReadOnlyCollection<SecretEntry> Entries => _content.Named.Values;

    /// <summary>Hides their values wherever they would show.</summary>
    public SecretMask Mask => _content.Mask;

    /// <summary>What a folder of the workspace may use: its own secrets and those of folders around it.</summary>
    public ISecrets In(Area area) => new AreaSecrets(this, area);

    sealed class AreaSecrets(SecretVault vault, Area area) : ISecrets
    {
        public string? Find(string name) => vault.Find(name, area);

        public void Hide(string value) => vault.Hide(value);
    }

    /// <summary>The secret of a name without its value; null when none is set.</summary>
    public SecretEntry? Entry(string name) => _content.Named.GetValueOrDefault(name);

    /// <summary>Whether one of this name is set for a folder, readable or not.</summary>
    public bool IsSet(string name, Area area) =>
        SecretFiles.IsOne(name) ? _files.Has(name, area) : Entry(name)?.Area.Holds(area) == true;

    // Null when it is not set, is another folder's, or can't be read with this key.
    string? Find(string name, Area area)
    {
        if (!SecretFiles.IsOne(name))
            return Entry(name)?.Area.Holds(area) == true ? _content.Values.GetValueOrDefault(name) : null;
        if (_files.Find(name, area) is not { } value)
            return null;
        lock (_learned)
        {
            if (_known.Add(value))
                _content = _content with { Mask = new(_known.Concat(_learned)) };
        }
        return value;
    }

    /// <summary>Sets a secret; it is on disk when this returns.</summary>
    /// <param name="name">Letters, digits, - and _.</param>
    /// <param name="value">6 to 65,536 characters.</param>
    /// <param name="area">The folder that it is for, in the place of an earlier one.</param>
    /// <param name="by">Who sets it.</param>
    /// <exception cref="RefusedException">The name or value can't be taken.</exception>
    /// <exception cref="StorageException">It could not be written.</exception>
    public async Task SetAsync(string name, string value, Area area, Actor by)
    {
        if (!IsName(name))
        {
            throw new RefusedException(
                RefusalKind.Invalid,
                $"a secret's name holds letters, digits, - and _; this is “{name}”"
            );
        }
        if (value.Length < SecretMask.Shortest)
        {
            throw new RefusedException(
                RefusalKind.Invalid,
                $"a secret has {SecretMask.Shortest} characters at least: a shorter one could not be "
                    + "hidden in logs without hiding half of them"
            );
        }
        if (value.Length > MostCharacters)
            throw new RefusedException(RefusalKind.Invalid, $"a secret has {MostCharacters:N0} characters at most");
        string cipher;
        try
        {
            cipher = _cipher.Encrypt(value);
        }
        catch (Exception e)
            when (e is CryptographicException or IOException or UnauthorizedAccessException or System.Xml.XmlException)
        {
            throw new StorageException($"the secret can't be encrypted: {e.Message}", e);
        }
        await ChangeAsync(() =>
                _store.SetAsync(new(name, area, cipher, by.Name, _time.GetUtcNow()), Line("set", name, by, area))
            )
            .ConfigureAwait(false);
    }

    /// <summary>Takes a secret away.</summary>
    /// <exception cref="RefusedException">There is none of that name.</exception>
    /// <exception cref="StorageException">It could not be written.</exception>
    public async Task RemoveAsync(string name, Actor by)
    {
        if (Entry(name) is not { } entry)
            throw new RefusedException(RefusalKind.NotFound, $"there is no secret “{name}”");
        await ChangeAsync(() => _store.RemoveAsync(name, Line("remove", name, by, entry.Area))).ConfigureAwait(false);
    }

    AuditLine Line(string action, string name, Actor by, Area area) =>
        new(_time.GetUtcNow(), by, action, $"secret {name}", area == Area.Root ? null : $"for {area.Path}");

    async Task ChangeAsync(Func<Task> change)
    {
        await _changing.WaitAsync().ConfigureAwait(false);
        try
        {
            await change().ConfigureAwait(false);
            await LoadAsync().ConfigureAwait(false);
        }
        finally
        {
            _changing.Release();
        }
    }

    /// <summary>Secrets can be read from then on, and not changed.</summary>
    public void Dispose() => _changing.Dispose();

    static bool IsName(string name) =>
        name.Length is > 0 and <= 100 && name.All(c => char.IsAsciiLetterOrDigit(c) || c is '-' or '_');
}
