using GateChain.Kinds.Contract;

namespace GateChain.Kinds.FileServers;

/// <summary>Brings files here. One is there as a whole or not at all, and continues where it was cut off.</summary>
static class Download
{
    /// <summary>Gets a file.</summary>
    /// <param name="to">The full path it gets here.</param>
    /// <exception cref="StepFailedException">There is one already, or what arrived is not what is there.</exception>
    public static void To(
        FileServer server,
        ServerFile file,
        string to,
        bool overwrite,
        AttemptContext context,
        CancellationToken cancel
    )
    {
        if (!overwrite && File.Exists(to))
            throw new StepFailedException("exists", $"{to} is there already", "Set overwrite: true to replace it.");
        Directory.CreateDirectory(Path.GetDirectoryName(to)!);
        var part = FileServer.PartOf(context, to, file.Length, file.Changed);
        var from = File.Exists(part) && new FileInfo(part).Length <= file.Length ? new FileInfo(part).Length : 0;
        if (from > 0)
            FileServer.NoteGoesOn(context, file.Path, from);
        using (var source = server.Read(file, from))
        using (var target = new FileStream(part, from > 0 ? FileMode.Append : FileMode.Create, FileAccess.Write))
        {
            source.CopyTo(target, 1 << 16);
            target.Flush(flushToDisk: true);
        }
        cancel.ThrowIfCancellationRequested();
        FileServer.Check(new FileInfo(part).Length, file.Length, to);
        if (file.Md5 is { } md5)
            MustBe(md5, part, file.Path);
        File.Move(part, to, overwrite);
        context.Log.Note($"got {file.Path} as {to}");
    }

    static void MustBe(string md5, string part, string name)
    {
        if (Convert.ToHexStringLower(Md5.OfFile(part)) == md5)
            return;
        // Nothing of it can be continued with.
        File.Delete(part);
        throw new StepFailedException("hash", $"what arrived of {name} is not what is there: its MD5 is another one");
    }
}
