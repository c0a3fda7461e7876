using System.Net;
using Amazon.Runtime;
using Amazon.S3;
using GateChain.Core.Running.Events;

namespace GateChain.Kinds.FileServers;

/// <summary>What goes wrong with stores behind the S3 protocol.</summary>
static class S3Errors
{
    /// <summary>What an exception means; null for one of something else.</summary>
    public static StepError? Of(Exception e) =>
        e switch
        {
            AmazonS3Exception { ErrorCode: "NoSuchBucket" } => new("no-bucket", "there is no such bucket"),
            AmazonS3Exception { StatusCode: HttpStatusCode.NotFound } => new("no-file", "there is no such object"),
            AmazonS3Exception { StatusCode: HttpStatusCode.PreconditionFailed } => new(
                "changed",
                "the object was changed while it was read",
                "What had arrived is not used. Do it again."
            ),
            AmazonS3Exception { StatusCode: HttpStatusCode.Forbidden or HttpStatusCode.Unauthorized } s3 => new(
                "login",
                $"the store refuses it: {s3.ErrorCode}: {s3.Message}",
                "See the key, and what its owner may do."
            ),
            AmazonServiceException { InnerException: HttpRequestException http } => new(
                "unreachable",
                $"the store can't be reached: {http.Message}"
            ),
            HttpRequestException http => new("unreachable", $"the store can't be reached: {http.Message}"),
            AmazonServiceException service => new("cut", $"the store fails: {service.Message}"),
            AmazonClientException client => new("cut", client.Message),
            _ => null,
        };
}
