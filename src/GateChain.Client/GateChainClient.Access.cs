namespace GateChain.Client;

// Who may use the service.
public sealed partial class GateChainClient
{
    /// <summary>Who asks, and how one signs in.</summary>
    public Task<SessionInfo> SessionAsync(CancellationToken cancel = default) =>
        GetAsync<SessionInfo>("api/session", cancel);

    /// <summary>Who may sign in.</summary>
    public Task<IReadOnlyList<PersonInfo>> PeopleAsync(CancellationToken cancel = default) =>
        GetAsync<IReadOnlyList<PersonInfo>>("api/people", cancel);

    /// <summary>Adds somebody.</summary>
    public Task<NewPerson> AddPersonAsync(PersonRequest request, CancellationToken cancel = default) =>
        PostAsync<NewPerson>("api/people", request, cancel);

    /// <summary>Makes a one-time link with which somebody chooses a password.</summary>
    public Task<NewPerson> MakeLinkAsync(string name, CancellationToken cancel = default) =>
        PostAsync<NewPerson>($"{Person(name)}/link", new { }, cancel);

    /// <summary>Gives somebody other roles.</summary>
    public Task SetRolesAsync(string name, RolesRequest request, CancellationToken cancel = default) =>
        PutAsync($"{Person(name)}/roles", request, cancel);

    /// <summary>Keeps somebody out, or lets them in again.</summary>
    public Task SetDisabledAsync(string name, bool disabled, CancellationToken cancel = default) =>
        PutAsync($"{Person(name)}/disabled", new DisabledRequest(disabled), cancel);

    /// <summary>Turns off the one-time codes of somebody.</summary>
    public Task RemoveCodesAsync(string name, CancellationToken cancel = default) =>
        DeleteAsync($"{Person(name)}/codes", null, cancel);

    /// <summary>Ends all sessions of somebody.</summary>
    public Task EndSessionsAsync(string name, CancellationToken cancel = default) =>
        DeleteAsync($"{Person(name)}/sessions", null, cancel);

    /// <summary>Removes somebody.</summary>
    public Task RemovePersonAsync(string name, CancellationToken cancel = default) =>
        DeleteAsync(Person(name), null, cancel);

    static string Person(string name) => $"api/people/{Uri.EscapeDataString(name)}";

    /// <summary>All tokens.</summary>
    public Task<IReadOnlyList<TokenInfo>> TokensAsync(CancellationToken cancel = default) =>
        GetAsync<IReadOnlyList<TokenInfo>>("api/tokens", cancel);

    /// <summary>Makes a token of somebody's.</summary>
    public Task<NewToken> AddTokenAsync(OwnedTokenRequest request, CancellationToken cancel = default) =>
        PostAsync<NewToken>("api/tokens", request, cancel);

    /// <summary>Revokes a token of anybody.</summary>
    public Task RevokeTokenAsync(string id, CancellationToken cancel = default) =>
        DeleteAsync($"api/tokens/{Uri.EscapeDataString(id)}", null, cancel);

    /// <summary>Revokes the token that this client shows.</summary>
    public Task RevokeThisTokenAsync(CancellationToken cancel = default) =>
        DeleteAsync("api/me/tokens/this", null, cancel);

    /// <summary>What steps of folders may use.</summary>
    public Task<IReadOnlyList<AreaRulesInfo>> RulesAsync(CancellationToken cancel = default) =>
        GetAsync<IReadOnlyList<AreaRulesInfo>>("api/access/rules", cancel);

    /// <summary>Says what steps of a folder may use.</summary>
    public Task SetRulesAsync(AreaRulesInfo rules, CancellationToken cancel = default) =>
        PutAsync("api/access/rules", rules, cancel);

    /// <summary>Lets the rules of the folder above hold again.</summary>
    public Task RemoveRulesAsync(string folder, CancellationToken cancel = default) =>
        DeleteAsync($"api/access/rules?folder={Uri.EscapeDataString(folder)}", null, cancel);

    /// <summary>How people sign in.</summary>
    public Task<SignInInfo> SignInSettingsAsync(CancellationToken cancel = default) =>
        GetAsync<SignInInfo>("api/access/sign-in", cancel);

    /// <summary>Says how people sign in.</summary>
    public Task SetSignInAsync(SignInInfo settings, CancellationToken cancel = default) =>
        PutAsync("api/access/sign-in", settings, cancel);

    /// <summary>Asks to be let in.</summary>
    public Task<DeviceCodes> BeginDeviceAsync(DeviceStart request, CancellationToken cancel = default) =>
        PostAsync<DeviceCodes>("api/device", request, cancel);

    /// <summary>Looks whether it is let in.</summary>
    public Task<DeviceAnswer> LookAtDeviceAsync(DeviceLook request, CancellationToken cancel = default) =>
        PostAsync<DeviceAnswer>("api/device/look", request, cancel);

    /// <summary>Lines of the audit log, newest first.</summary>
    /// <param name="query">The query of the address, without its mark: <c>by=ann&amp;limit=20</c>.</param>
    /// <param name="cancel">Gives up.</param>
    public Task<IReadOnlyList<AuditInfo>> AuditAsync(string query, CancellationToken cancel = default) =>
        GetAsync<IReadOnlyList<AuditInfo>>($"api/audit?{query}", cancel);

    /// <summary>Whether the audit log is as it was written.</summary>
    public Task<AuditVerdict> VerifyAuditAsync(CancellationToken cancel = default) =>
        GetAsync<AuditVerdict>("api/audit/verdict", cancel);

    /// <summary>The whole audit log as JSON Lines, oldest first.</summary>
    public async Task ExportAuditAsync(Stream into, CancellationToken cancel = default)
    {
        using var response = await SendAsync(
                new(HttpMethod.Get, "api/audit/export"),
                HttpCompletionOption.ResponseHeadersRead,
                cancel
            )
            .ConfigureAwait(false);
        await response.Content.CopyToAsync(into, cancel).ConfigureAwait(false);
    }

    async Task PutAsync(string path, object body, CancellationToken cancel)
    {
        using var request = new HttpRequestMessage(HttpMethod.Put, path)
        {
            Content = System.Net.Http.Json.JsonContent.Create(body, body.GetType(), options: Json),
        };
        using var response = await SendAsync(request, HttpCompletionOption.ResponseContentRead, cancel)
            .ConfigureAwait(false);
    }
}
