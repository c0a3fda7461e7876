using System.Globalization;
using System.IO.Compression;
using GateChain.Client;
using GateChain.Core.Access;
using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Engine.Basics;
using GateChain.Engine.Drafts;
using GateChain.Engine.Runs;
using GateChain.Engine.Workspaces;
using GateChain.Service.Access;
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
            .Needs(Permission.See, Where.NewChain)
            .WithSummary("A chain's draft, or its latest release as version 0; its version is the ETag")
            .ProducesProblem(404);
        api.MapPut("/chains/{name}/draft", Save)
            .WithName("saveDraft")
            .Needs(Permission.Design, Where.NewChain)
            .WithSummary(
                "Saves a draft. If-Match has the version it is made from, \"0\" for none; "
                    + "412 tells the draft that somebody else has saved"
            )
            .ProducesProblem(412)
            .ProducesProblem(422)
            .ProducesProblem(428);
        api.MapDelete("/chains/{name}/draft", Discard)
            .WithName("discardDraft")
            .Needs(Permission.Design, Where.Chain)
            .WithSummary("Lets a draft go; If-Match has its version")
            .ProducesProblem(412)
            .ProducesProblem(428);
        api.MapGet("/chains/{name}/draft/history", History)
            .WithName("listDraftVersions")
            .Needs(Permission.See, Where.Chain)
            .WithSummary("Earlier versions of a draft, newest first");
        api.MapGet("/chains/{name}/releases", Releases)
            .WithName("listReleases")
            .Needs(Permission.See, Where.Chain)
            .WithSummary("The releases of a chain, newest first")
            .ProducesProblem(404);
        api.MapGet("/chains/{name}/releases/{number:int}", Release)
            .WithName("getRelease")
            .Needs(Permission.See, Where.Chain)
            .WithSummary("A release with its content")
            .ProducesProblem(404);
        api.MapPost("/chains/{name}/releases", Make)
            .WithName("makeRelease")
            .Needs(Permission.Design, Where.Chain)
            .WithSummary("Releases the draft (If-Match has its version), or an earlier release again")
            .ProducesProblem(404)
            .ProducesProblem(409)
            .ProducesProblem(412)
            .ProducesProblem(422)
            .ProducesProblem(428);
        api.MapPost("/chains/{name}/try", Try)
            .WithName("tryDraft")
            .Needs(Permission.Design, Where.NewChain)
            .WithSummary("Runs a draft, or a part of it, without releasing it")
            .ProducesProblem(404)
            .ProducesProblem(422);
        api.MapGet("/workspace", Export)
            .WithName("exportWorkspace")
            .Needs(Permission.See)
            .WithSummary(
                "The latest releases, their attachments and what stands beside them, as files that can be pushed"
            );
        api.MapGet("/workspace/zip", Zip)
            .WithName("downloadWorkspace")
            .Needs(Permission.See)
            .WithSummary("The same as a ZIP file")
            .Produces(200, contentType: "application/zip");
    }

    static async Task<FileContentHttpResult> Zip(WorkspaceService workspace, Visitor visitor)
    {
        using var file = new MemoryStream();
        using (var zip = new ZipArchive(file, ZipArchiveMode.Create, leaveOpen: true))
        {
            foreach (var (name, content) in await ExportAsync(workspace, visitor))
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
        Visitor visitor,
        AreaLocator areas,
        HttpContext http
    )
    {
        await HoldAreaAsync(name, request.Area, visitor, areas);
        var saved = await drafts.SaveAsync(
            name,
            Seen(http),
            request.Source,
            Base64.Read(request.Files),
            Visitor.Of(http).Actor,
            request.Area is { } area ? new(area) : null
        );
        return await AnswerAsync(saved, drafts, catalogue, http);
    }

    static async Task<NoContent> Discard(string name, DraftService drafts, HttpContext http)
    {
        await drafts.DiscardAsync(name, Seen(http), Visitor.Of(http).Actor);
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
            ? await drafts.GoBackAsync(name, again, note, Visitor.Of(http).Actor)
            : await drafts.ReleaseAsync(name, Seen(http), note, Visitor.Of(http).Actor);
        return TypedResults.Created($"/api/chains/{name}/releases/{release.Number}", DraftViews.Release(release));
    }

    static async Task<Created<RunSummary>> Try(
        string name,
        TryRequest request,
        RunStarter runs,
        IRunStore store,
        DraftService drafts,
        Visitor visitor,
        AreaLocator areas
    )
    {
        await HoldAreaAsync(name, null, visitor, areas);
        if (request.Known is { } known)
            await areas.MustSeeRunAsync(known, visitor);
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
            visitor.Actor
        );
        return TypedResults.Created($"/api/runs/{id}", await store.SummaryAsync(id));
    }

    static async Task<WorkspaceFiles> Export(WorkspaceService workspace, Visitor visitor) =>
        new(Base64.Write(await ExportAsync(workspace, visitor)));

    static async Task<IReadOnlyDictionary<string, byte[]>> ExportAsync(WorkspaceService workspace, Visitor visitor) =>
        new SortedDictionary<string, byte[]>(
            (await workspace.ExportAsync())
                .Where(f => visitor.Sees(Area.OfFile(f.Key)))
                .ToDictionary(f => f.Key, f => f.Value),
            StringComparer.Ordinal
        );

    // Where a chain is to come to lie, and where it lies.
    static async Task HoldAreaAsync(string name, string? wanted, Visitor visitor, AreaLocator areas)
    {
        var there = await areas.OfChainAsync(name);
        if (wanted is not null)
            visitor.Must(Permission.Design, AreaLocator.Read(wanted), () => NotThere(wanted));
        else if (there is null)
            visitor.Must(Permission.Design, Area.Root, () => NotThere(""));
    }

    static RefusedException NotThere(string folder) =>
        new(
            RefusalKind.NotFound,
            folder.Length == 0
                ? "say the folder that the chain is to lie in: the workspace itself is not yours to design in"
                : $"there is no folder “{folder}” that you could design in"
        );

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
        // A map of texts may hold nothing in the place of one, whatever its type says.
        if (files?.Any(f => f.Value is null) == true)
            throw new RefusedException(RefusalKind.Invalid, "a file without content can't be stored");
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
