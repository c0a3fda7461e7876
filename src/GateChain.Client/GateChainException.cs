using System.Net.Http.Json;
using System.Text.Json;

namespace GateChain.Client;

/// <summary>The service refused, or did not answer. The message is a sentence for people.</summary>
/// <param name="status">The HTTP status; 0 when there was no answer.</param>
public sealed class GateChainException(int status, string message, string? detail, IReadOnlyList<ProblemInfo> problems)
    : Exception(message)
{
    /// <summary>The status of the answer, as HTTP numbers it; 0 when there was none.</summary>
    public int Status { get; } = status;

    /// <summary>What the service said; null when it said nothing.</summary>
    public string? Detail { get; } = detail;

    /// <summary>The problems of the files that were refused.</summary>
    public IReadOnlyList<ProblemInfo> Problems { get; } = problems;

    /// <remarks>Source: RFC 9457.</remarks>
    sealed record ProblemDocument(string? Title, string? Detail, IReadOnlyList<ProblemInfo>? Problems);

    internal static async Task<GateChainException> OfAsync(HttpResponseMessage response, CancellationToken cancel)
    {
        try
        {
            var problem = await response
                .Content.ReadFromJsonAsync<ProblemDocument>(GateChainClient.Json, cancel)
                .ConfigureAwait(false);
            return new(
                (int)response.StatusCode,
                problem?.Detail ?? problem?.Title ?? response.ReasonPhrase ?? "refused",
                null,
                problem?.Problems ?? []
            );
        }
        catch (Exception e) when (e is JsonException or NotSupportedException)
        {
            return new(
                (int)response.StatusCode,
                $"the service answered {(int)response.StatusCode} {response.ReasonPhrase}",
                null,
                []
            );
        }
    }
}
