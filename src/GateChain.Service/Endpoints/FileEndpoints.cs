using System.Text;
using GateChain.Client;
using GateChain.Core.Access;
using GateChain.Core.Designing;
using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Engine.Basics;
using GateChain.Engine.Connections;
using GateChain.Engine.Workspaces;
using GateChain.Kinds;
using GateChain.Service.Access;
using GateChain.Service.Views;
using FileInfo = GateChain.Client.FileInfo;

namespace GateChain.Service.Endpoints;

/// <summary>What stands beside the chains, and their attachments: list, look, save.</summary>
static class FileEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/files", async (WorkspaceFileService files, Visitor visitor) =>
                (await files.ListAsync()).Where(f => visitor.Sees(Area.OfFile(f.Path))).Select(Of)
            )
            .WithName("listFiles")
            .Needs(Permission.See)
            .WithSummary("The files of the workspace that are no chains");
        api.MapGet("/files/content", Content)
            .WithName("getFile")
            .Needs(Permission.See, Where.File)
            .WithSummary("A file with its content, as it is or was")
            .ProducesProblem(404);
        api.MapGet("/files/download", Download)
            .WithName("downloadFile")
            .Needs(Permission.See, Where.File)
            .WithSummary("The bytes of a file, as it is or was")
            .ProducesProblem(404);
        api.MapGet("/files/versions", Versions)
            .WithName("listFileVersions")
            .Needs(Permission.See, Where.File)
            .WithSummary("The versions of a file, newest first")
            .ProducesProblem(404);
        api.MapPut("/files", Save)
            .WithName("saveFile")
            .Needs(Permission.See)
            .WithSummary(
                "Checks a file, and saves it when it says of which version it is and nothing keeps it from that"
            )
            .ProducesProblem(409)
            .ProducesProblem(422);
        api.MapGet("/broken", (BrokenChains broken, Visitor visitor) =>
                broken.Now.Where(b => visitor.Sees(b.Area)).Select(Of)
            )
            .WithName("listBroken")
            .Needs(Permission.See)
            .WithSummary("Chains that new runs would follow and that do not fit what stands beside them");
        api.MapGet("/connections/types", () =>
                AllConnections
                    .Types.OrderBy(t => t.Name, StringComparer.Ordinal)
                    .Select(t => new ConnectionTypeInfo(
                        t.Name,
                        t.Doc,
                        DesignViews.Json(ChainSchema.OfShape(t.Settings))
                    ))
            )
            .WithName("listConnectionTypes")
            .NeedsSignIn()
            .WithSummary("The types of connections, with their settings");
        api.MapPost("/connections/try", Try)
            .WithName("tryConnection")
            .Needs(Permission.Keep)
            .WithSummary("Goes once to a connection of a file that is not saved")
            .ProducesProblem(404)
            .ProducesProblem(422);
    }

    static FileInfo Of(FileEntry file) =>
        new(file.Path, file.Kind, file.Version, file.Author, file.At, file.Size, file.UsedBy);

    static BrokenInfo Of(Broken broken) => new(broken.What, broken.IsChain, broken.Message, broken.More);

    static async Task<FileContent> Content(WorkspaceFileService files, string path, string? version = null)
    {
        var (file, content) = await files.GetAsync(path, version);
        return new(Of(file), TextOf(content));
    }

    static string? TextOf(byte[] content)
    {
        try
        {
            var text = new UTF8Encoding(false, throwOnInvalidBytes: true).GetString(content);
            return text.Contains('\0', StringComparison.Ordinal) ? null : text;
        }
        catch (ArgumentException)
        {
            return null;
        }
    }

    // Never shown by a browser, whatever it holds.
    static async Task<IResult> Download(WorkspaceFileService files, string path, string? version = null)
    {
        var (file, content) = await files.GetAsync(path, version);
        return Results.File(content, "application/octet-stream", Path.GetFileName(file.Path));
    }

    static async Task<IEnumerable<FileVersionInfo>> Versions(WorkspaceFileService files, string path) =>
        (await files.VersionsAsync(path)).Select(v => new FileVersionInfo(v.Version, v.Author, v.At, v.Action, v.Size));

    static async Task<FileAnswerInfo> Save(
        FileRequest request,
        WorkspaceFileService files,
        PushPermits permits,
        Visitor visitor
    )
    {
        await permits.HoldFileAsync(request.Path, visitor);
        if (request.Text is not null && request.Base64 is not null)
            throw new RefusedException(RefusalKind.Invalid, "a file is given as text or as base64, not both");
        var content =
            request.Base64 is not null
                ? Base64.Read(new Dictionary<string, string> { [request.Path] = request.Base64 })[request.Path]
            : request.Text is { } text ? Encoding.UTF8.GetBytes(text)
            : null;
        var answer = await files.SaveAsync(
            new(request.Path, content, request.Version, request.Anyway, request.Note),
            visitor.Actor
        );
        return new([.. answer.Problems.Select(ProblemViews.Of)], [.. answer.Breaks.Select(Of)], answer.Version);
    }

    static async Task<ConnectionCheckInfo> Try(
        ConnectionTryRequest request,
        ConnectionService connections,
        Visitor visitor,
        CancellationToken cancel
    )
    {
        visitor.Must(Permission.Keep, Area.OfFile(request.Path), () => AreaLocator.NoFile(request.Path));
        var check = await connections.TryAsync(request.Path, request.Text, request.Name, cancel);
        return new(check.Works, check.Found, Math.Round(check.Took.TotalMilliseconds, 1));
    }
}
