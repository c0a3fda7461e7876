using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Contract;
using GateChain.Kinds.FileServers.Ftp;

namespace GateChain.Kinds.FileServers;

/// <summary>
/// Files on another machine or in a bucket. What is put there is there as a whole or not at all. Used by one thread.
/// </summary>
abstract class FileServer : IDisposable
{
    /// <summary>The types of connections that lead to one.</summary>
    public const string Types = "sftp ftp s3 azure";

    /// <summary>What the names of files end in that are not whole yet.</summary>
    public const string Part = ".gatechain-part";

    /// <summary>The server of a connection.</summary>
    /// <exception cref="StepFailedException">The connection is of another type, or lacks something.</exception>
    public static FileServer Open(Connection connection, ISecrets secrets, CancellationToken cancel) =>
        connection.Type switch
        {
            "s3" => new S3Server(connection.Open<S3Settings>(secrets), cancel),
            "azure" => new AzureServer(connection.Open<AzureSettings>(secrets), cancel),
            "sftp" => new SftpServer(connection.Open<SftpSettings>(secrets), cancel),
            "ftp" => new FtpServer(connection.Open<FtpSettings>(secrets), cancel),
            _ => throw new StepFailedException(
                "no-connection",
                $"“{connection.Name}” is of type {connection.Type}: files are on servers (sftp, ftp) and in "
                    + "buckets (s3, azure)"
            ),
        };

    /// <summary>How a failure is told; null for one of something else.</summary>
    public static Core.Running.Events.StepError? Error(Exception e) =>
        SftpConnection.Error(e) ?? FtpConnection.Error(e) ?? S3Errors.Of(e) ?? AzureErrors.Of(e);

    /// <summary>A path from where all begins there, however it is written.</summary>
    public virtual string Full(string path) => path;

    /// <summary>The files that a path or pattern names, by path.</summary>
    /// <param name="pattern">A path, or a pattern with <c>*</c> and <c>?</c> in each of its parts.</param>
    /// <param name="most">The most that are told.</param>
    public abstract IReadOnlyList<ServerFile> Match(string pattern, int most = int.MaxValue);

    /// <summary>What is in a folder, one level deep; of very many entries only the first.</summary>
    /// <param name="folder">It, with a stroke at its end; empty for where one begins.</param>
    public abstract IReadOnlyList<(string Name, bool IsFolder)> Entries(string folder);

    /// <summary>Whether something is there under a path, and is a folder.</summary>
    public abstract bool IsFolder(string path);

    /// <summary>The bytes of a file.</summary>
    /// <param name="file">It, in the version that was found: another one fails.</param>
    /// <param name="from">How many are left out at the beginning.</param>
    public abstract Stream Read(ServerFile file, long from);

    /// <summary>Puts a file there; what an earlier attempt has brought is not brought again.</summary>
    /// <exception cref="StepFailedException">It is there already and is not to be replaced.</exception>
    public abstract void Put(FileInfo file, string to, bool overwrite, AttemptContext context);

    /// <summary>Deletes a file.</summary>
    public abstract void Delete(string path);

    /// <summary>Gives a file another path.</summary>
    /// <exception cref="StepFailedException">There is one already and it is not to be replaced.</exception>
    public abstract void Move(string from, string to, bool overwrite);

    public abstract void Dispose();

    /// <summary>
    /// The path that a file has until it is whole. Named after the work and the file as it is: what another file of
    /// the same name has left is never continued with.
    /// </summary>
    public static string PartOf(AttemptContext context, string to, long length, DateTime changed) =>
        $"{to}."
        + Convert.ToHexStringLower(
            SHA256.HashData(Encoding.UTF8.GetBytes($"{context.WorkKey}|{length}|{changed.Ticks}")).AsSpan(0, 6)
        )
        + $"{Part}";

    /// <summary>Fails when fewer or more bytes have arrived than there are.</summary>
    public static void Check(long arrived, long sent, string name)
    {
        if (arrived != sent)
        {
            throw new StepFailedException(
                "size",
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"{name} has {arrived:N0} bytes and should have {sent:N0}: "
                        + $"it was changed on its way or is still being written"
                )
            );
        }
    }

    /// <summary>Fails when a file here is another one than when it was found.</summary>
    protected static void MustBeAsItWas(FileInfo file)
    {
        var now = new FileInfo(file.FullName);
        if (now.Length != file.Length || now.LastWriteTimeUtc != file.LastWriteTimeUtc)
            throw Changed(file.FullName);
    }

    protected static StepFailedException Changed(string name) =>
        new("size", $"{name} was changed while it was sent: nothing of it is there");

    protected static StepFailedException IsThere(string path) =>
        new("exists", $"{path} is there already", "Set overwrite: true to replace it.");

    /// <summary>Tells that a file does not begin at its start.</summary>
    public static void NoteGoesOn(AttemptContext context, string name, long from) =>
        context.Log.Note(string.Create(CultureInfo.InvariantCulture, $"{name} continues after {from:N0} bytes"));
}
