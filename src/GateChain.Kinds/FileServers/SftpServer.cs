using Renci.SshNet;
using Renci.SshNet.Common;

namespace GateChain.Kinds.FileServers;

/// <summary>A server over SFTP.</summary>
sealed class SftpServer : FolderServer
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

    protected override string Home => _client.WorkingDirectory.TrimEnd('/');

    protected override IEnumerable<Entry> List(string folder)
    {
        _cancel.ThrowIfCancellationRequested();
        return _client
            .ListDirectory(folder.Length == 0 ? "/" : folder)
            .Where(e => e.Name is not ("." or ".."))
            .Select(e => new Entry(
                e.FullName,
                e.Name,
                e.IsDirectory,
                e.IsRegularFile ? new(e.FullName, e.Attributes.Size, e.Attributes.LastWriteTimeUtc) : null
            ));
    }

    // What a link leads to counts, under the link's own name; one that leads nowhere is no file.
    protected override ServerFile? Find(string path)
    {
        try
        {
            var what = _client.GetAttributes(path);
            return what.IsRegularFile ? new(path, what.Size, what.LastWriteTimeUtc) : null;
        }
        catch (SftpPathNotFoundException)
        {
            return null;
        }
    }

    protected override bool Exists(string path) => _client.Exists(path);

    public override bool IsFolder(string path) => _client.Exists(path) && _client.GetAttributes(path).IsDirectory;

    public override Stream Read(ServerFile file, long from)
    {
        var stream = _client.OpenRead(file.Path);
        stream.Seek(from, SeekOrigin.Begin);
        return stream;
    }

    protected override void Write(string path, long from, Stream rest)
    {
        using var target = _client.Open(path, from > 0 ? FileMode.Open : FileMode.Create, FileAccess.Write);
        target.Seek(from, SeekOrigin.Begin);
        rest.CopyTo(target, 1 << 16);
        target.Flush();
    }

    protected override void MakeFolder(string path) => _client.CreateDirectory(path);

    public override void Delete(string path) => _client.DeleteFile(path);

    protected override void Rename(string from, string to) => _client.RenameFile(from, to);

    protected override bool TryReplace(string from, string to)
    {
        try
        {
            _client.RenameFile(from, to, isPosix: true);
            return true;
        }
        catch (SshException)
        {
            return false;
        }
    }

    public override void Dispose()
    {
        _stop.Dispose();
        _client.Dispose();
    }
}
