using System.Globalization;
using System.Text;

namespace GateChain.Kinds.FileServers.Ftp;

/// <summary>A server over FTP, enciphered or not.</summary>
sealed class FtpServer : FolderServer
{
    readonly FtpSession _session;
    readonly CancellationToken _cancel;

    // Servers of today tell size and time in lists, in a form of the standard's; others are asked for each file.
    readonly bool _facts;

    public FtpServer(FtpSettings settings, CancellationToken cancel)
    {
        (_session, _cancel) = (new(settings, cancel), cancel);
        _facts = _session.Has("MLST");
        Home = HomeOf(_session.Must("PWD").Text);
    }

    /// <summary>What the server says to somebody who tests the connection.</summary>
    public string Greeting() => $"{_session.Greeting}, in {(Home.Length == 0 ? "/" : Home)}";

    protected override string Home { get; }

    // "/a ""b""" is the current folder: a quote within is written twice.
    static string HomeOf(string answer)
    {
        var from = answer.IndexOf('"', StringComparison.Ordinal);
        if (from < 0)
            return "";
        var path = new StringBuilder();
        for (var at = from + 1; at < answer.Length; at++)
        {
            if (answer[at] == '"' && (at + 1 == answer.Length || answer[++at] != '"'))
                break;
            path.Append(answer[at]);
        }
        return path.ToString().TrimEnd('/');
    }

    // Lists are asked for in the folder itself: a name with a star or a dash would be taken for something else.
    protected override IEnumerable<Entry> List(string folder)
    {
        _cancel.ThrowIfCancellationRequested();
        var path = folder == "." ? Home : Full(folder);
        _session.Must("CWD", path.Length == 0 ? "/" : path);
        var lines = new List<string>();
        using (var data = _session.Receive(_facts ? "MLSD" : "LIST", null))
        using (var reader = new StreamReader(data, Encoding.UTF8))
        {
            while (reader.ReadLine() is { } line)
                lines.Add(line);
        }
        return lines
            .Select(l => _facts ? FtpEntry.OfFacts(l) : FtpEntry.OfList(l))
            .OfType<FtpEntry>()
            .Select(e => Of(e, $"{path.TrimEnd('/')}/{e.Name}"));
    }

    static Entry Of(FtpEntry entry, string path) =>
        new(
            path,
            entry.Name,
            entry.IsFolder,
            entry is { IsFile: true, Size: { } size, Changed: { } changed } ? new(path, size, changed) : null
        );

    protected override ServerFile? Find(string path)
    {
        var full = Full(path);
        var size = _session.Ask("SIZE", full);
        if (size.IsUnknown)
            throw new FtpException("SIZE", size);
        if (!size.IsDone || !long.TryParse(size.Text, CultureInfo.InvariantCulture, out var length))
            return null;
        return new(path, length, FtpEntry.TimeOf(_session.Must("MDTM", full).Text) ?? default);
    }

    protected override bool Exists(string path) => Find(path) is not null || IsFolder(path);

    public override bool IsFolder(string path) => _session.Ask("CWD", Full(path)).IsDone;

    public override Stream Read(ServerFile file, long from) => _session.Receive("RETR", Full(file.Path), from);

    // More servers let a file grow than let one begin in its middle.
    protected override void Write(string path, long from, Stream rest) =>
        _session.Send(from > 0 ? "APPE" : "STOR", Full(path), rest);

    protected override void MakeFolder(string path) => _session.Must("MKD", Full(path));

    public override void Delete(string path) => _session.Must("DELE", Full(path));

    protected override void Rename(string from, string to)
    {
        if (_session.Both("RNFR", Full(from), "RNTO", Full(to)) is { IsDone: false } refused)
            throw new FtpException("RNTO", refused);
    }

    protected override bool TryReplace(string from, string to) =>
        _session.Both("RNFR", Full(from), "RNTO", Full(to)).IsDone;

    public override void Dispose() => _session.Dispose();
}
