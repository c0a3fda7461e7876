using System.Net.Http.Json;

namespace GateChain.Client;

// What chains go to, and with which secrets and values.
public sealed partial class GateChainClient
{
    /// <summary>The connections of the workspace; what is secret in them is hidden.</summary>
    public Task<IReadOnlyList<ConnectionInfo>> ConnectionsAsync(CancellationToken cancel = default) =>
        GetAsync<IReadOnlyList<ConnectionInfo>>("api/connections", cancel);

    /// <summary>Goes to a connection once.</summary>
    /// <param name="name">Its name.</param>
    /// <param name="area">The folder that declares it; null when there is one of that name only.</param>
    /// <param name="cancel">Ends the wait.</param>
    public Task<ConnectionCheckInfo> CheckConnectionAsync(
        string name,
        string? area = null,
        CancellationToken cancel = default
    ) => PostAsync<ConnectionCheckInfo>(ConnectionPath(name, "check", area), new { }, cancel);

    static string ConnectionPath(string name, string action, string? area) =>
        $"api/connections/{Uri.EscapeDataString(name)}/{action}"
        + (area is null ? "" : $"?area={Uri.EscapeDataString(area)}");

    /// <summary>Tells which stages of loads stand in a database, and clears those that no run needs.</summary>
    /// <param name="name">The connection's name.</param>
    /// <param name="request">What is cleared.</param>
    /// <param name="area">The folder that declares it; null when there is one of that name only.</param>
    /// <param name="cancel">Ends the wait.</param>
    public Task<List<StageInfo>> TidyAsync(
        string name,
        TidyRequest request,
        string? area = null,
        CancellationToken cancel = default
    ) => PostAsync<List<StageInfo>>(ConnectionPath(name, "tidy", area), request, cancel);

    /// <summary>The names of secrets, and whether each is set; never a value.</summary>
    public Task<IReadOnlyList<SecretInfo>> SecretsAsync(CancellationToken cancel = default) =>
        GetAsync<IReadOnlyList<SecretInfo>>("api/secrets", cancel);

    /// <summary>Sets a secret.</summary>
    /// <param name="name">Its name.</param>
    /// <param name="value">Its value.</param>
    /// <param name="area">The folder that may use it; null for where it is.</param>
    /// <param name="cancel">Ends the request.</param>
    public async Task SetSecretAsync(string name, string value, string? area = null, CancellationToken cancel = default)
    {
        using var request = new HttpRequestMessage(HttpMethod.Put, $"api/secrets/{Uri.EscapeDataString(name)}")
        {
            Content = JsonContent.Create(new SecretRequest(value, area), options: Json),
        };
        using var response = await SendAsync(request, HttpCompletionOption.ResponseContentRead, cancel)
            .ConfigureAwait(false);
    }

    /// <summary>Takes a secret away.</summary>
    public Task RemoveSecretAsync(string name, CancellationToken cancel = default) =>
        DeleteAsync($"api/secrets/{Uri.EscapeDataString(name)}", null, cancel);

    /// <summary>The profiles of the workspace with their values.</summary>
    public Task<IReadOnlyList<ProfileInfo>> ProfilesAsync(CancellationToken cancel = default) =>
        GetAsync<IReadOnlyList<ProfileInfo>>("api/profiles", cancel);
}
