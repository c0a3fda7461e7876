using System.Text.Json;
using System.Text.Json.Nodes;
using GateChain.Client;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Checking;
using GateChain.Core.Designing;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Drafts;
using GateChain.Storage;

namespace GateChain.Service.Views;

/// <summary>What helps with designing, as the API shows it.</summary>
static class DesignViews
{
    public static JsonElement Json(JsonNode node) => JsonSerializer.SerializeToElement(node);

    public static KindInfo Kind(KindDescription kind, bool probe) =>
        new(
            kind.Name,
            kind.Doc,
            kind.Purpose.Word(),
            kind.StepKeys.Contains("steps"),
            Json(
                probe
                    ? ChainSchema.OfShape(kind.Settings)
                    : ChainSchema.OfStep(kind, new JsonObject { ["const"] = kind.Name })
            ),
            [.. kind.Outputs.Where(o => o.Key != "*").Select(o => new NameInfo(o.Key, o.Value.ToString()))],
            kind.Tells
        );

    public static IReadOnlyList<PartChangeInfo> Changes(IReadOnlyList<PartChange> changes) =>
        [
            .. changes.Select(c => new PartChangeInfo(
                c.Part,
                c.Change,
                c.Address,
                c.Was,
                ProblemViews.Gate(c.Gate),
                [.. c.Settings.Select(s => new SettingChangeInfo(s.Setting, s.Before, s.After))]
            )),
        ];

    /// <summary>The places of a rename with their lines, as they are and as they will be.</summary>
    public static IReadOnlyList<RenamePlaceInfo> Places(IReadOnlyList<RenamePlace> places, string source)
    {
        var lines = source.Split('\n');
        var starts = new int[lines.Length];
        for (var i = 1; i < lines.Length; i++)
            starts[i] = starts[i - 1] + lines[i - 1].Length + 1;
        return
        [
            .. places.Select(p => new RenamePlaceInfo(
                new(p.Edit.Start, p.Edit.Length, p.Edit.Text),
                p.What,
                p.Line,
                lines[p.Line - 1].Trim(),
                After(p.Line).Trim()
            )),
        ];

        string After(int line)
        {
            var text = lines[line - 1];
            foreach (var place in places.Where(p => p.Line == line).Reverse())
            {
                var at = place.Edit.Start - starts[line - 1];
                text = text[..at] + place.Edit.Text + text[(at + place.Edit.Length)..];
            }
            return text;
        }
    }

    public static ExpressionSpot Spot(ExpressionRequest request)
    {
        if (request.Step is null)
            return new(null, StepPlace.Setting, request.Scope, request.From);
        return Enum.TryParse<StepPlace>(request.Place, ignoreCase: true, out var place)
            ? new(request.Step, place)
            : throw new RefusedException(
                RefusalKind.Invalid,
                $"“{request.Place}” is no place of an expression; places are "
                    + $"{string.Join(", ", Enum.GetNames<StepPlace>().Select(n => n.ToLowerInvariant()))}"
            );
    }
}

/// <summary>Drafts and releases as the API shows them.</summary>
static class DraftViews
{
    public static async Task<DraftInfo> DraftAsync(Draft draft, DraftService drafts, ICatalogue catalogue) =>
        new(
            draft.Chain,
            draft.Version,
            draft.Source,
            draft.Base,
            draft.Author,
            draft.Saved,
            [.. (await drafts.FilesAsync(draft.Chain)).Keys.Order(StringComparer.Ordinal)],
            await catalogue.ReleasesAsync(draft.Chain) is [var latest, ..] ? latest.Number : null,
            (await drafts.AreaOfAsync(draft.Chain)).Path
        );

    public static ReleaseInfo Release(NumberedRelease release) =>
        new(release.Number, release.Hash, release.Note, release.Author, release.Made);
}
