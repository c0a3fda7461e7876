using System.Globalization;
using System.IO.Compression;
using GateChain.Client;
using GateChain.Core.Running;
using GateChain.Engine.Basics;
using GateChain.Engine.Drafts;
using GateChain.Engine.Runs;
using GateChain.Engine.Workspaces;
using GateChain.Service.Views;
using GateChain.Storage;
using Microsoft.AspNetCore.Http.HttpResults;

namespace GateChain.Service.Endpoints;

/// <summary>Drafts and releases.</summary>
static class DraftEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/chains/{name}/draft", Get)
            .WithName("getDraft")
            .WithSummary("A chain's draft, or its latest release as version 0; its version is the ETag")
            .ProducesProblem(404);
        api.MapPut("/chains/{name}/draft", Save)
            .WithName("saveDraft")
            .WithSummary(
                "Saves a draft. If-Match has the version it is made from, \"0\" for none; "
                    + "412 tells the draft that somebody else has saved"
            )
            .ProducesProblem(412)
            .ProducesProblem(422)
            .ProducesProblem(428);
        api.MapDelete("/chains/{name}/draft", Discard)
            .WithName("discardDraft")
            .WithSummary("Lets a draft go; If-Match has its version")
            .ProducesProblem(412)
            .ProducesProblem(428);
        api.MapGet("/chains/{name}/draft/history", History)
            .WithName("listDraftVersions")
            .WithSummary("Earlier versions of a draft, newest first");
        api.MapGet("/chains/{name}/releases", Releases)
            .WithName("listReleases")
            .WithSummary("The releases of a chain, newest first")
            .ProducesProblem(404);
        api.MapGet("/chains/{name}/releases/{number:int}", Release)
            .WithName("getRelease")
            .WithSummary("A release with its content")
            .ProducesProblem(404);
        api.MapPost("/chains/{name}/releases", Make)
            .WithName("makeRelease")
            .WithSummary("Releases the draft (If-Match has its version), or an earlier release again")
            .ProducesProblem(404)
            .ProducesProblem(409)
            .ProducesProblem(412)
            .ProducesProblem(422)
            .ProducesProblem(428);
        api.MapPost("/chains/{name}/try", Try)
            .WithName("tryDraft")
            .WithSummary("Runs a draft, or a part of it, without releasing it")
            .ProducesProblem(404)
            .ProducesProblem(422);
        api.MapGet("/workspace", Export)
            .WithName("exportWorkspace")
            .WithSummary(
                "The latest releases, their attachments and what stands beside them, as files that can be pushed"
            );
        api.MapGet("/workspace/zip", Zip)
            .WithName("downloadWorkspace")
            .WithSummary("The same as a ZIP file")
            .Produces(200, contentType: "application/zip");
    }

    static async Task<FileContentHttpResult> Zip(WorkspaceService workspace)
    {
        using var file = new MemoryStream();
        using (var zip = new ZipArchive(file, ZipArchiveMode.Create, leaveOpen: true))
        {
            foreach (var (name, content) in await workspace.ExportAsync())
            {
                using var entry = zip.CreateEntry(name).Open();
                entry.Write(content);
            }
        }
        return TypedResults.File(file.ToArray(), "application/zip", "workspace.zip");
    }

    static async Task<DraftInfo> Get(string name, DraftService drafts, ICatalogue catalogue, HttpContext http) =>
        await AnswerAsync(await drafts.GetAsync(name), drafts, catalogue, http);

    static async Task<DraftInfo> Save(
        string name,
        SaveDraftRequest request,
        DraftService drafts,
        ICatalogue catalogue,
        HttpContext http
    )
    {
        var saved = await drafts.SaveAsync(
            name,
            Seen(http),
            request.Source,
            Base64.Read(request.Files),
            Caller.Of(http),
            request.Area is { } area ? new(area) : null
        );
        return await AnswerAsync(saved, drafts, catalogue, http);
    }

    static async Task<NoContent> Discard(string name, DraftService drafts, HttpContext http)
    {
        await drafts.DiscardAsync(name, Seen(http), Caller.Of(http));
        return TypedResults.NoContent();
    }

    static async Task<IReadOnlyList<DraftVersionInfo>> History(string name, DraftService drafts) =>
        [
            .. (await drafts.HistoryAsync(name)).Select(d => new DraftVersionInfo(
                d.Version,
                d.Author,
                d.Saved,
                d.Source
            )),
        ];

    static async Task<IReadOnlyList<ReleaseInfo>> Releases(string name, DraftService drafts, ICatalogue catalogue)
    {
        var releases = await catalogue.ReleasesAsync(name);
        // A chain that is only a draft has none; one that is not there is told.
        if (releases.Count == 0)
            await drafts.GetAsync(name);
        return [.. releases.Select(DraftViews.Release)];
    }

    static async Task<ReleaseDetail> Release(string name, int number, DraftService drafts)
    {
        var (release, content) = await drafts.NumberedAsync(name, number);
        return new(DraftViews.Release(release), content.Source, Base64.Write(content.Files));
    }

    static async Task<Created<ReleaseInfo>> Make(
        string name,
        ReleaseRequest request,
        DraftService drafts,
        HttpContext http
    )
    {
        var note = string.IsNullOrWhiteSpace(request.Note) ? null : request.Note.Trim();
        var release = request.Again is { } again
            ? await drafts.GoBackAsync(name, again, note, Caller.Of(http))
            : await drafts.ReleaseAsync(name, Seen(http), note, Caller.Of(http));
        return TypedResults.Created($"/api/chains/{name}/releases/{release.Number}", DraftViews.Release(release));
    }

    static async Task<Created<RunSummary>> Try(
        string name,
        TryRequest request,
        RunStarter runs,
        IRunStore store,
        DraftService drafts,
        HttpContext http
    )
    {
        if (
            !Enum.TryParse<TryPart>(request.Part, ignoreCase: true, out var part)
            || !request.Part.All(char.IsAsciiLetter)
        )
        {
            throw new RefusedException(
                RefusalKind.Invalid,
                $"“{request.Part}” is no part; parts are whole, from, only and upTo"
            );
        }
        var id = await runs.TryAsync(
            name,
            new(
                request.Source ?? (await drafts.GetAsync(name)).Source,
                JsonViews.Values(request.Params),
                request.Profile,
                part,
                request.Step,
                request.Known,
                JsonViews.Values(request.Given),
                request.PauseBefore ?? []
            ),
            Caller.Of(http)
        );
        return TypedResults.Created($"/api/runs/{id}", await store.SummaryAsync(id));
    }

    static async Task<WorkspaceFiles> Export(WorkspaceService workspace) =>
        new(Base64.Write(await workspace.ExportAsync()));

    static async Task<DraftInfo> AnswerAsync(Draft draft, DraftService drafts, ICatalogue catalogue, HttpContext http)
    {
        http.Response.Headers.ETag = $"\"{draft.Version}\"";
        return await DraftViews.DraftAsync(draft, drafts, catalogue);
    }

    /// <summary>The version that the caller has seen.</summary>
    /// <remarks>Source: RFC 9110, If-Match.</remarks>
    static long Seen(HttpContext http)
    {
        var match = http.Request.Headers.IfMatch.ToString();
        return
            long.TryParse(match.Trim('"'), NumberStyles.None, CultureInfo.InvariantCulture, out var version)
            && match.Length > 0
            ? version
            : throw new PreconditionRequiredException(
                "say in If-Match which version of the draft this is made from, for example If-Match: "
                    + "\"3\"; \"0\" when there was none"
            );
    }
}

/// <summary>A request lacks the header that keeps two people from overwriting each other.</summary>
sealed class PreconditionRequiredException(string message) : Exception(message);

/// <summary>Files in JSON.</summary>
static class Base64
{
    public static Dictionary<string, byte[]> Read(IReadOnlyDictionary<string, string>? files)
    {
        try
        {
            return files?.ToDictionary(f => f.Key, f => Convert.FromBase64String(f.Value)) ?? [];
        }
        catch (FormatException)
        {
            throw new RefusedException(RefusalKind.Invalid, "the contents of files are written in base64");
        }
    }

    public static IReadOnlyDictionary<string, string> Write(IReadOnlyDictionary<string, byte[]> files) =>
        files.ToDictionary(f => f.Key, f => Convert.ToBase64String(f.Value));
}
