using System.IO.Enumeration;
using GateChain.Kinds.Contract;
using Renci.SshNet;
using Renci.SshNet.Common;
using Renci.SshNet.Sftp;

namespace GateChain.Kinds.FileServers;

/// <summary>A server over SFTP.</summary>
sealed class SftpServer : FileServer
{
    readonly SftpClient _client;
    readonly CancellationToken _cancel;
    readonly CancellationTokenRegistration _stop;

    /// <exception cref="HostKeyException">The server has another key.</exception>
    public SftpServer(SftpSettings settings, CancellationToken cancel)
    {
        (_client, _cancel) = (SftpConnection.Open(settings), cancel);
        _stop = cancel.Register(_client.Disconnect);
    }

    public override string Full(string path) =>
        path.StartsWith('/') ? path : $"{_client.WorkingDirectory.TrimEnd('/')}/{path}";

    public override IReadOnlyList<ServerFile> Match(string pattern, int most = int.MaxValue)
    {
        if (pattern.IndexOfAny(['*', '?']) < 0)
            return _client.Exists(pattern) && Find(pattern, null) is { } one ? [one] : [];
        var found = new List<ServerFile>();
        var root = pattern.StartsWith('/') ? "/" : ".";
        Into(root, pattern.Split('/', StringSplitOptions.RemoveEmptyEntries), 0, found, most);
        return [.. found.OrderBy(f => f.Path, StringComparer.Ordinal)];
    }

    void Into(string folder, string[] parts, int at, List<ServerFile> found, int most)
    {
        _cancel.ThrowIfCancellationRequested();
        var isLast = at == parts.Length - 1;
        if (!isLast && parts[at].IndexOfAny(['*', '?']) < 0)
        {
            Into(folder == "." ? parts[at] : $"{folder.TrimEnd('/')}/{parts[at]}", parts, at + 1, found, most);
            return;
        }
        foreach (var entry in _client.ListDirectory(folder).Where(e => Fits(parts[at], e.Name)))
        {
            if (!isLast && entry.IsDirectory)
            {
                Into(entry.FullName, parts, at + 1, found, most);
            }
            else if (
                isLast
                && found.Count < most
                && Find(entry.FullName, entry.IsSymbolicLink ? null : entry.Attributes) is { } file
            )
            {
                found.Add(file);
            }
        }
    }

    static bool Fits(string pattern, string name) =>
        name is not ("." or "..")
        && !name.EndsWith(Part, StringComparison.Ordinal)
        && FileSystemName.MatchesSimpleExpression(pattern, name, ignoreCase: false);

    // What a link leads to counts, under the link's own name; one that leads nowhere is no file.
    ServerFile? Find(string path, SftpFileAttributes? known)
    {
        try
        {
            var what = known ?? _client.GetAttributes(path);
            return what.IsRegularFile ? new(path, what.Size, what.LastWriteTimeUtc) : null;
        }
        catch (SftpPathNotFoundException)
        {
            return null;
        }
    }

    public override IReadOnlyList<(string Name, bool IsFolder)> Entries(string folder) =>
        [
            .. _client
                .ListDirectory(folder.Length == 0 ? _client.WorkingDirectory : folder)
                .Where(e => e.Name is not ("." or ".."))
                .Select(e => (e.Name, e.IsDirectory)),
        ];

    public override bool IsFolder(string path) => _client.Exists(path) && _client.GetAttributes(path).IsDirectory;

    public override Stream Read(ServerFile file, long from)
    {
        var stream = _client.OpenRead(file.Path);
        stream.Seek(from, SeekOrigin.Begin);
        return stream;
    }

    public override void Put(FileInfo file, string to, bool overwrite, AttemptContext context)
    {
        if (!overwrite && _client.Exists(to))
            throw IsThere(to);
        MakeFolders(to[..Math.Max(0, to.LastIndexOf('/'))]);
        var part = PartOf(context, to, file.Length, file.LastWriteTimeUtc);
        var from = _client.Exists(part) ? _client.GetAttributes(part).Size : 0;
        if (from > file.Length)
            from = 0;
        using (var source = file.OpenRead())
        using (var target = _client.Open(part, from > 0 ? FileMode.Open : FileMode.Create, FileAccess.Write))
        {
            if (from > 0)
            {
                NoteGoesOn(context, file.FullName, from);
                source.Seek(from, SeekOrigin.Begin);
                target.Seek(from, SeekOrigin.Begin);
            }
            source.CopyTo(target, 1 << 16);
            target.Flush();
        }
        Check(_client.GetAttributes(part).Size, file.Length, to);
        Move(part, to, overwrite);
    }

    void MakeFolders(string folder)
    {
        if (folder.Length == 0 || _client.Exists(folder))
            return;
        MakeFolders(folder[..Math.Max(0, folder.LastIndexOf('/'))]);
        _client.CreateDirectory(folder);
    }

    public override void Delete(string path) => _client.DeleteFile(path);

    public override void Move(string from, string to, bool overwrite)
    {
        if (_client.Exists(to))
        {
            if (!overwrite)
                throw IsThere(to);
            // The server's own way replaces at once; where it has none there is a moment without the file.
            try
            {
                _client.RenameFile(from, to, isPosix: true);
                return;
            }
            catch (SshException)
            {
                _client.DeleteFile(to);
            }
        }
        _client.RenameFile(from, to);
    }

    public override void Dispose()
    {
        _stop.Dispose();
        _client.Dispose();
    }
}
