namespace GateChain.Client;

// What stands beside the chains.
public sealed partial class GateChainClient
{
    /// <summary>The files of the workspace that are no chains.</summary>
    public Task<IReadOnlyList<FileInfo>> FilesAsync(CancellationToken cancel = default) =>
        GetAsync<IReadOnlyList<FileInfo>>("api/files", cancel);

    /// <summary>A file with its content, as it is or was.</summary>
    public Task<FileContent> FileAsync(string path, string? version = null, CancellationToken cancel = default) =>
        GetAsync<FileContent>(
            $"api/files/content?path={Uri.EscapeDataString(path)}"
                + (version is null ? "" : $"&version={Uri.EscapeDataString(version)}"),
            cancel
        );

    /// <summary>The versions of a file, newest first.</summary>
    public Task<IReadOnlyList<FileVersionInfo>> FileVersionsAsync(string path, CancellationToken cancel = default) =>
        GetAsync<IReadOnlyList<FileVersionInfo>>($"api/files/versions?path={Uri.EscapeDataString(path)}", cancel);

    /// <summary>Checks or saves a file.</summary>
    public Task<FileAnswerInfo> SaveFileAsync(FileRequest request, CancellationToken cancel = default) =>
        SendJsonAsync<FileAnswerInfo>(HttpMethod.Put, "api/files", request, null, cancel);
}
