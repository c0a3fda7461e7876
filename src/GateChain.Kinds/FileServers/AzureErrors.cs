using Azure;
using Azure.Storage.Blobs.Models;
using GateChain.Core.Running.Events;

namespace GateChain.Kinds.FileServers;

/// <summary>What goes wrong with Azure Blob Storage.</summary>
static class AzureErrors
{
    /// <summary>What an exception means; null for one of something else.</summary>
    public static StepError? Of(Exception e) =>
        e switch
        {
            RequestFailedException { Status: 0 } request => new(
                "unreachable",
                $"the store can't be reached: {request.Message}"
            ),
            RequestFailedException { Status: 404 } request when request.ErrorCode == BlobErrorCode.ContainerNotFound =>
                new("no-bucket", "there is no such container"),
            RequestFailedException { Status: 404 } => new("no-file", "there is no such blob"),
            RequestFailedException { Status: 409, ErrorCode: "BlobAlreadyExists" } => new(
                "exists",
                "the blob is there already"
            ),
            RequestFailedException { Status: 412 } => new(
                "changed",
                "the blob was changed while it was read",
                "What had arrived is not used. Do it again."
            ),
            RequestFailedException { Status: 401 or 403 } request => new(
                "login",
                $"the store refuses it: {request.ErrorCode}",
                "See the key or signature, and what its owner may do."
            ),
            RequestFailedException request => new("cut", $"the store fails: {request.ErrorCode ?? request.Message}"),
            AggregateException { InnerException: RequestFailedException inner } => Of(inner),
            _ => null,
        };
}
