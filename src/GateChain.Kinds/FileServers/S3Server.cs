using System.Net;
using Amazon.Runtime;
using Amazon.S3;
using Amazon.S3.Model;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.FileServers;

/// <summary>A connection of type <c>s3</c>.</summary>
public sealed record S3Settings
{
    [Setting("The bucket.", Required = true)]
    public string Bucket { get; init; } = "";

    [Setting("The address of the store, for example `https://objects.larkmoor.example`; that of AWS when absent.")]
    public string? Endpoint { get; init; }

    [Setting("The region.")]
    public string Region { get; init; } = "us-east-1";

    [Setting("The id of the access key.", Required = true)]
    public string KeyId { get; init; } = "";

    [Setting("The secret access key, as `secret:name`.", Required = true, Secret = true)]
    public string Key { get; init; } = "";

    [Setting("Whether the bucket stands in the path of addresses and not in their host, as many stores want it.")]
    public bool PathStyle { get; init; }
}

/// <summary>A bucket behind the S3 protocol. Objects of more than 8 MiB are brought in parts.</summary>
sealed class S3Server : Bucket
{
    // The smallest part that the protocol takes is 5 MiB, and 10,000 of them the most.
    const long PartSize = 8 << 20;

    const string CopySource = "x-amz-copy-source";

    readonly AmazonS3Client _client;
    readonly string _bucket;
    readonly CancellationToken _cancel;

    public S3Server(S3Settings settings, CancellationToken cancel)
    {
        (_bucket, _cancel) = (settings.Bucket, cancel);
        var config = new AmazonS3Config
        {
            ForcePathStyle = settings.PathStyle,
            AuthenticationRegion = settings.Region,
            MaxErrorRetry = 3,
            // Many stores that speak the protocol know nothing of the newer sums; MD5 they all know.
            RequestChecksumCalculation = RequestChecksumCalculation.WHEN_REQUIRED,
            ResponseChecksumValidation = ResponseChecksumValidation.WHEN_REQUIRED,
        };
        if (settings.Endpoint is { } endpoint)
            config.ServiceURL = endpoint;
        else
            config.RegionEndpoint = Amazon.RegionEndpoint.GetBySystemName(settings.Region);
        _client = new(new BasicAWSCredentials(settings.KeyId, settings.Key), config);
        // Some stores look for the stroke behind the bucket's name as it is.
        _client.BeforeRequestEvent += (_, e) =>
        {
            if (
                e is WebServiceRequestEventArgs { Headers: var headers }
                && headers.TryGetValue(CopySource, out var source)
            )
            {
                headers[CopySource] = source.Replace("%2F", "/", StringComparison.OrdinalIgnoreCase);
            }
        };
    }

    public override string Greeting() => $"bucket {_bucket}, {(List("").Any() ? "with objects" : "without objects")}";

    static T Wait<T>(Task<T> task) => task.GetAwaiter().GetResult();

    protected override IEnumerable<ServerFile> List(string prefix)
    {
        var request = new ListObjectsV2Request { BucketName = _bucket, Prefix = prefix };
        for (; ; )
        {
            var page = Wait(_client.ListObjectsV2Async(request, _cancel));
            foreach (var found in page.S3Objects ?? [])
            {
                yield return Of(found.Key, found.Size ?? 0, found.LastModified, found.ETag);
            }
            if (page.IsTruncated != true)
                yield break;
            request.ContinuationToken = page.NextContinuationToken;
        }
    }

    protected override ServerFile? Find(string name)
    {
        try
        {
            var found = Wait(_client.GetObjectMetadataAsync(_bucket, name, _cancel));
            return Of(name, found.ContentLength, found.LastModified, found.ETag);
        }
        catch (AmazonS3Exception e) when (e.StatusCode == HttpStatusCode.NotFound && e.ErrorCode != "NoSuchBucket")
        {
            return null;
        }
    }

    // The tag of an object that was brought in one piece is its MD5; of parts it is another sum with their number.
    static ServerFile Of(string name, long size, DateTime? changed, string? tag)
    {
        var plain = tag?.Trim('"');
        return new(name, size, (changed ?? default).ToUniversalTime())
        {
            Tag = tag,
            Md5 = plain is { Length: 32 } && plain.All(char.IsAsciiHexDigit) ? plain.ToLowerInvariant() : null,
        };
    }

    public override Stream Read(ServerFile file, long from)
    {
        var request = new GetObjectRequest { BucketName = _bucket, Key = file.Path };
        if (from >= file.Length)
            return Stream.Null;
        if (from > 0)
            request.ByteRange = new(from, file.Length - 1);
        if (file.Tag is { } tag)
            request.EtagToMatch = tag;
        return Wait(_client.GetObjectAsync(request, _cancel)).ResponseStream;
    }

    public override void Put(FileInfo file, string to, bool overwrite, AttemptContext context)
    {
        var name = NameOf(to);
        if (!overwrite && Find(name) is not null)
            throw IsThere(to);
        if (file.Length <= PartSize)
        {
            using var content = file.OpenRead();
            Wait(
                _client.PutObjectAsync(
                    new()
                    {
                        BucketName = _bucket,
                        Key = name,
                        InputStream = content,
                        MD5Digest = Sum(content, 0, file.Length),
                        UseChunkEncoding = false,
                        AutoCloseStream = false,
                    },
                    _cancel
                )
            );
            return;
        }
        PutParts(file, name, context);
    }

    void PutParts(FileInfo file, string name, AttemptContext context)
    {
        var size = Math.Max(PartSize, file.Length / 9_000 + 1);
        var upload = new UploadNote(context, $"{name}|{file.Length}|{file.LastWriteTimeUtc.Ticks}|{size}");
        var there = upload.Id is { } begun ? PartsOf(name, begun) : null;
        var id = there is null
            ? upload.Keep(Wait(_client.InitiateMultipartUploadAsync(_bucket, name, _cancel)).UploadId)
            : upload.Id!;
        there ??= [];
        if (there.Count > 0)
            NoteGoesOn(context, file.FullName, there.Count * size);
        using var content = file.OpenRead();
        for (var part = 1; (part - 1) * size < file.Length; part++)
        {
            if (there.Any(p => p.PartNumber == part))
                continue;
            var (from, length) = ((part - 1) * size, Math.Min(size, file.Length - (part - 1) * size));
            var done = Wait(
                _client.UploadPartAsync(
                    new()
                    {
                        BucketName = _bucket,
                        Key = name,
                        UploadId = id,
                        PartNumber = part,
                        PartSize = length,
                        FilePath = file.FullName,
                        FilePosition = from,
                        MD5Digest = Sum(content, from, length),
                        UseChunkEncoding = false,
                    },
                    _cancel
                )
            );
            there.Add(new(part, done.ETag));
        }
        MustBeAsItWas(file);
        Wait(
            _client.CompleteMultipartUploadAsync(
                new()
                {
                    BucketName = _bucket,
                    Key = name,
                    UploadId = id,
                    PartETags = [.. there.OrderBy(p => p.PartNumber)],
                },
                _cancel
            )
        );
        upload.Forget();
        Check(Find(name)?.Length ?? 0, file.Length, name);
    }

    // What is there of an upload; null when the store does not know it any more.
    List<PartETag>? PartsOf(string name, string upload)
    {
        try
        {
            var parts = new List<PartETag>();
            var request = new ListPartsRequest
            {
                BucketName = _bucket,
                Key = name,
                UploadId = upload,
            };
            for (; ; )
            {
                var page = Wait(_client.ListPartsAsync(request, _cancel));
                parts.AddRange((page.Parts ?? []).Select(p => new PartETag(p.PartNumber ?? 0, p.ETag)));
                if (page.IsTruncated != true)
                    return parts;
                request.PartNumberMarker = $"{page.NextPartNumberMarker}";
            }
        }
        catch (AmazonS3Exception)
        {
            return null;
        }
    }

    static string Sum(FileStream content, long from, long length) =>
        Convert.ToBase64String(Md5.Of(content, from, length) ?? throw Changed(content.Name));

    public override void Delete(string path) => Wait(_client.DeleteObjectAsync(_bucket, NameOf(path), _cancel));

    protected override void Copy(string from, string to) =>
        Wait(_client.CopyObjectAsync(_bucket, from, _bucket, to, _cancel));

    public override void Dispose() => _client.Dispose();
}
