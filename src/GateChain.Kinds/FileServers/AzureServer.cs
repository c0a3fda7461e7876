using System.Globalization;
using System.Net;
using System.Text;
using Azure;
using Azure.Storage;
using Azure.Storage.Blobs;
using Azure.Storage.Blobs.Models;
using Azure.Storage.Blobs.Specialized;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.FileServers;

/// <summary>A connection of type <c>azure</c>.</summary>
public sealed record AzureSettings
{
    [Setting("The storage account.", Required = true)]
    public string Account { get; init; } = "";

    [Setting("The container.", Required = true)]
    public string Container { get; init; } = "";

    [Setting("The address of the account's blobs; `https://ACCOUNT.blob.core.windows.net` when absent.")]
    public string? Endpoint { get; init; }

    [Setting("The account's key, as `secret:name`.", Secret = true)]
    public string? Key { get; init; }

    [Setting("A shared access signature in place of the key, as `secret:name`.", Secret = true)]
    public string? Signature { get; init; }
}

/// <summary>A container of blobs. They are brought in blocks, which count when all are there.</summary>
sealed class AzureServer : Bucket
{
    // At most 50,000 blocks.
    const long BlockSize = 8 << 20;

    readonly BlobContainerClient _container;
    readonly CancellationToken _cancel;

    public AzureServer(AzureSettings settings, CancellationToken cancel)
    {
        _cancel = cancel;
        var account = settings.Endpoint ?? $"https://{settings.Account}.blob.core.windows.net";
        var address = new Uri($"{account.TrimEnd('/')}/{settings.Container}");
        var options = new BlobClientOptions();
        options.Retry.MaxRetries = 2;
        options.Retry.Delay = TimeSpan.FromMilliseconds(300);
        options.Retry.NetworkTimeout = TimeSpan.FromSeconds(100);
        try
        {
            _container = settings switch
            {
                { Key: { } key } => new(address, new StorageSharedKeyCredential(settings.Account, key), options),
                { Signature: { } signature } => new(address, new AzureSasCredential(signature), options),
                _ => throw new StepFailedException("connection", "an azure connection needs “key” or “signature”"),
            };
        }
        catch (FormatException)
        {
            throw new StepFailedException("login", "the account's key is not one: it is base64");
        }
    }

    public override string Greeting() =>
        $"container {_container.Name}, {(List("").Any() ? "with blobs" : "without blobs")}";

    protected override IEnumerable<ServerFile> List(string prefix) =>
        _container
            .GetBlobs(BlobTraits.None, BlobStates.None, prefix, _cancel)
            .Select(b =>
                Of(
                    b.Name,
                    b.Properties.ContentLength ?? 0,
                    b.Properties.LastModified ?? default,
                    b.Properties.ETag ?? default,
                    b.Properties.ContentHash
                )
            );

    protected override ServerFile? Find(string name)
    {
        try
        {
            var found = _container.GetBlobClient(name).GetProperties(cancellationToken: _cancel).Value;
            return Of(name, found.ContentLength, found.LastModified, found.ETag, found.ContentHash);
        }
        catch (RequestFailedException e)
            when (e.Status == (int)HttpStatusCode.NotFound && e.ErrorCode != BlobErrorCode.ContainerNotFound)
        {
            return null;
        }
    }

    static ServerFile Of(string name, long size, DateTimeOffset changed, ETag tag, byte[]? md5) =>
        new(name, size, changed.UtcDateTime)
        {
            Tag = tag.ToString(),
            Md5 = md5 is null ? null : Convert.ToHexStringLower(md5),
        };

    public override Stream Read(ServerFile file, long from)
    {
        if (from >= file.Length)
            return Stream.Null;
        var options = new BlobDownloadOptions { Conditions = new() { IfMatch = new ETag(file.Tag!) } };
        if (from > 0)
            options.Range = new(from);
        return _container.GetBlobClient(file.Path).DownloadStreaming(options, _cancel).Value.Content;
    }

    public override void Put(FileInfo file, string to, bool overwrite, AttemptContext context)
    {
        var name = NameOf(to);
        if (!overwrite && Find(name) is not null)
            throw IsThere(to);
        var blob = _container.GetBlockBlobClient(name);
        var size = Math.Max(BlockSize, file.Length / 40_000 + 1);
        var there = Staged(blob);
        var blocks = new List<string>();
        var goesOn = false;
        using var content = file.OpenRead();
        for (var from = 0L; from < file.Length; from += size)
        {
            // Named after the work and the file: a block of another one is never taken for it.
            var id = BlockOf(context, file, from, size);
            blocks.Add(id);
            if (there.Contains(id))
            {
                goesOn = true;
                continue;
            }
            if (goesOn)
                NoteGoesOn(context, file.FullName, from);
            goesOn = false;
            content.Position = from;
            using var block = new MemoryStream();
            CopySome(content, block, Math.Min(size, file.Length - from));
            blob.StageBlock(
                id,
                block,
                new() { TransferValidation = new() { ChecksumAlgorithm = StorageChecksumAlgorithm.MD5 } },
                _cancel
            );
        }
        MustBeAsItWas(file);
        var conditions = new BlobRequestConditions();
        if (!overwrite)
            conditions.IfNoneMatch = ETag.All;
        blob.CommitBlockList(
            blocks,
            new CommitBlockListOptions
            {
                Conditions = conditions,
                HttpHeaders = new() { ContentHash = Md5.OfFile(file.FullName) },
            },
            _cancel
        );
        Check(Find(name)?.Length ?? 0, file.Length, name);
    }

    static void CopySome(FileStream content, MemoryStream block, long length)
    {
        var buffer = new byte[1 << 16];
        while (length > 0)
        {
            var read = content.Read(buffer, 0, (int)Math.Min(buffer.Length, length));
            if (read == 0)
                throw Changed(content.Name);
            block.Write(buffer, 0, read);
            length -= read;
        }
        block.Position = 0;
    }

    static string BlockOf(AttemptContext context, FileInfo file, long from, long size)
    {
        var part = PartOf(context, $"{size}", file.Length, file.LastWriteTimeUtc)[..^Part.Length];
        return Convert.ToBase64String(
            Encoding.UTF8.GetBytes(string.Create(CultureInfo.InvariantCulture, $"{part}-{from:D16}"))
        );
    }

    HashSet<string> Staged(BlockBlobClient blob)
    {
        try
        {
            return
            [
                .. blob.GetBlockList(BlockListTypes.Uncommitted, cancellationToken: _cancel)
                    .Value.UncommittedBlocks.Select(b => b.Name),
            ];
        }
        catch (RequestFailedException e) when (e.Status == (int)HttpStatusCode.NotFound)
        {
            return [];
        }
    }

    public override void Delete(string path) =>
        _container.GetBlobClient(NameOf(path)).Delete(cancellationToken: _cancel);

    protected override void Copy(string from, string to) =>
        _container
            .GetBlobClient(to)
            .StartCopyFromUri(_container.GetBlobClient(from).Uri, cancellationToken: _cancel)
            .WaitForCompletion(_cancel);

    public override void Dispose() { }
}
