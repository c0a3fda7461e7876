using GateChain.Client;
using GateChain.Core.Access;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Checking;
using GateChain.Core.Designing;
using GateChain.Core.Expressions;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Design;
using GateChain.Engine.Drafts;
using GateChain.Engine.Reading;
using GateChain.Engine.Workspaces;
using GateChain.Service.Access;
using GateChain.Service.Views;

namespace GateChain.Service.Endpoints;

/// <summary>What helps with designing a chain; nothing is stored here.</summary>
static class DesignEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/kinds", Kinds)
            .WithName("listKinds")
            .NeedsSignIn()
            .WithSummary("Kinds of steps and probes: what they do, what they take and give");
        api.MapGet("/schema/chain", (ChainCheck check) => DesignViews.Json(ChainSchema.Of(check.Kinds)))
            .WithName("getChainSchema")
            .NeedsSignIn()
            .WithSummary("JSON Schema of chain files");
        api.MapGet("/templates", () => Templates.All)
            .NeedsSignIn()
            .WithName("listTemplates")
            .WithSummary("Chains to begin with");
        api.MapGet("/design/surroundings/{name}", WorkspaceContext)
            .WithName("getSurroundings")
            .Needs(Permission.Design, Where.NewChain)
            .WithSummary("What a draft can name: connections, lanes, attachments, other chains");
        api.MapPost("/design/check", Check)
            .WithName("checkDraft")
            .Needs(Permission.Design)
            .WithSummary("Everything that is wrong with a chain file");
        api.MapPost("/design/comparison", (ComparisonRequest request) =>
                DesignViews.Changes(ChainComparison.Compare(request.Before, request.After))
            )
            .WithName("compareSources")
            .Needs(Permission.Design)
            .WithSummary("What two chain files say differently");
        api.MapPost("/design/rename", Rename)
            .WithName("planRename")
            .Needs(Permission.Design)
            .WithSummary("Everything that a rename has to change")
            .ProducesProblem(422);
        api.MapPost("/design/expression", Look)
            .WithName("lookAtExpression")
            .Needs(Permission.Design)
            .WithSummary("An expression's type, mistakes, completions and value with a run's data")
            .ProducesProblem(404);
        api.MapPost("/design/columns", Columns)
            .WithName("listColumns")
            .Needs(Permission.Design)
            .WithSummary("The columns of a load step's source and target")
            .ProducesProblem(404);
        api.MapPost("/design/preview", Preview)
            .WithName("previewStep")
            .Needs(Permission.Design)
            .WithSummary("What a load or check step would read: its first rows, and what its file seems to be")
            .ProducesProblem(404);
        api.MapPost("/design/lookup", Lookup)
            .WithName("lookup")
            .Needs(Permission.Design)
            .WithSummary("Tables of a connection, or files and folders, that a setting can name")
            .ProducesProblem(404)
            .ProducesProblem(422);
        api.MapPost("/design/names", NamesAt)
            .WithName("listNames")
            .Needs(Permission.Design)
            .WithSummary("The names that an expression can use at a place");
    }

    static KindsInfo Kinds(ChainCheck check) =>
        new(
            [.. check.Kinds.All.Select(k => DesignViews.Kind(k, probe: false))],
            [.. check.Kinds.Probes.Select(k => DesignViews.Kind(k, probe: true))],
            new Dictionary<string, SettingShape>
            {
                ["gate"] = ChainShapes.Gate,
                ["guardRule"] = ChainShapes.GuardRule,
                ["otherwise"] = ChainShapes.Otherwise,
                ["expectRule"] = ChainShapes.ExpectRule,
                ["retry"] = ChainShapes.Retry,
                ["chain"] = ChainShapes.Chain,
            }.ToDictionary(s => s.Key, s => DesignViews.Json(ChainSchema.OfShape(s.Value)))
        );

    static async Task<WorkspaceContextInfo> WorkspaceContext(
        string name,
        DraftService drafts,
        WorkspaceService workspace
    )
    {
        var beside = await drafts.ContextOfAsync(name);
        return new(
            [
                .. beside
                    .Connections.OrderBy(c => c.Key, StringComparer.Ordinal)
                    .Select(c => new NameInfo(c.Key, c.Value)),
            ],
            [.. beside.Lanes.Order(StringComparer.Ordinal)],
            [.. (await workspace.ContextOfAsync(name)).Profiles.Names],
            [.. beside.Files.Order(StringComparer.Ordinal)],
            [
                .. beside
                    .Chains.Values.Where(c => c.IsCallableFrom(beside.Area))
                    .OrderBy(c => c.Name, StringComparer.Ordinal)
                    .Select(c => new ChainNames(
                        c.Name,
                        ChainViews.Parameters(c.Parameters),
                        [.. c.Outputs.Select(o => new NameInfo(o.Key, o.Value.ToString()))]
                    )),
            ]
        );
    }

    static async Task<IReadOnlyList<ProblemInfo>> Check(
        CheckRequest request,
        DraftService drafts,
        AreaLocator areas,
        Visitor visitor
    )
    {
        await areas.MustDesignAsync(request.Chain, visitor);
        return [.. (await drafts.CheckAsync(request.Chain, request.Source)).Problems.Select(ProblemViews.Of)];
    }

    static async Task<RenameResult> Rename(
        RenameRequest request,
        DraftService drafts,
        AreaLocator areas,
        Visitor visitor
    )
    {
        await areas.MustDesignAsync(request.Chain, visitor);
        if (!Enum.TryParse<Renamed>(request.What, ignoreCase: true, out var what))
        {
            throw new RefusedException(
                RefusalKind.Invalid,
                $"“{request.What}” can't be renamed; steps, variables, parameters and branches can"
            );
        }
        if ((await drafts.CheckAsync(request.Chain, request.Source)).Chain is not { } chain)
            return new([], "the file can't be read; fix it first");
        var (places, refusal) = ChainRename.Plan(chain, request.Source, what, request.Scope, request.From, request.To);
        return new(DesignViews.Places(places, request.Source), refusal);
    }

    static async Task<ColumnsInfo> Columns(
        ColumnsRequest request,
        DesignLookup columns,
        AreaLocator areas,
        Visitor visitor,
        CancellationToken cancel
    )
    {
        await MustLookAsync(request, areas, visitor);
        var found = await columns.OfAsync(request.Chain, request.Source, request.Step, request.Run, cancel);
        return new(found.Source, found.Target, found.Problem);
    }

    static async Task<PreviewInfo> Preview(
        ColumnsRequest request,
        DesignLookup design,
        AreaLocator areas,
        Visitor visitor,
        CancellationToken cancel
    )
    {
        await MustLookAsync(request, areas, visitor);
        return PreviewViews.Of(
            await design.PreviewAsync(request.Chain, request.Source, request.Step, request.Run, cancel)
        );
    }

    // What settings are is computed with the data of a run.
    static async Task MustLookAsync(ColumnsRequest request, AreaLocator areas, Visitor visitor)
    {
        await areas.MustDesignAsync(request.Chain, visitor);
        if (request.Run is { } run)
            await areas.MustSeeRunAsync(run, visitor);
    }

    static async Task<LookupInfo> Lookup(
        LookupRequest request,
        DesignLookup design,
        AreaLocator areas,
        Visitor visitor,
        CancellationToken cancel
    )
    {
        await areas.MustDesignAsync(request.Chain, visitor);
        var found = request.What switch
        {
            "table" when request.Connection is { } connection => await design.TablesAsync(
                request.Chain,
                connection,
                cancel
            ),
            "path" => await design.PathsAsync(request.Chain, request.Connection, request.Begin ?? "", cancel),
            _ => throw new RefusedException(RefusalKind.Invalid, "look up a “table” of a connection, or a “path”"),
        };
        return new([.. found.Items.Select(i => new LookupItemInfo(i.Text, i.What))], found.HasMore, found.Problem);
    }

    static async Task<IReadOnlyList<NameInfo>> NamesAt(
        ExpressionRequest request,
        DraftService drafts,
        AreaLocator areas,
        Visitor visitor
    )
    {
        await areas.MustDesignAsync(request.Chain, visitor);
        return await ViewAsync(request, drafts) is { } view
            ? [.. view.Names.Select(n => new NameInfo(n.Name, n.Type))]
            : [];
    }

    static async Task<ExpressionView?> ViewAsync(ExpressionRequest request, DraftService drafts)
    {
        var draft = await drafts.CheckAsync(request.Chain, request.Source);
        if (draft.Expressions is not { } service)
            return null;
        lock (draft)
        {
            return service.At(DesignViews.Spot(request));
        }
    }

    static async Task<ExpressionResult> Look(
        ExpressionRequest request,
        DraftService drafts,
        RunReader runs,
        AreaLocator areas,
        Visitor visitor,
        TimeProvider time
    )
    {
        await areas.MustDesignAsync(request.Chain, visitor);
        if (request.Run is { } known)
            await areas.MustSeeRunAsync(known, visitor);
        if (await ViewAsync(request, drafts) is not { } view)
        {
            return new(
                null,
                "any",
                [new("the file can't be read at this place; fix it first", 0, request.Text.Length, null, null)],
                0,
                [],
                null,
                null,
                []
            );
        }
        var (type, problems) = view.Look(request.Text);
        var (from, items) = request.Cursor is { } cursor ? view.Complete(request.Text, cursor) : (0, []);
        var (value, error, parts) =
            type is null ? (null, null, [])
            : request.Values is { } made ? ValueWith(request.Text, view, JsonViews.Values(made))
            : request.Run is { } run ? await ValueOfAsync(request, run, runs, time)
            : (null, null, []);
        return new(
            type,
            view.Wanted,
            [
                .. problems.Select(p => new ExpressionMistake(
                    p.Message,
                    p.Span.Start,
                    p.Span.Length,
                    p.Fix?.Text,
                    p.Fix?.Replacement
                )),
            ],
            from,
            [.. items.Select(i => new CompletionInfo(i.Label, i.Kind, i.Type, i.Doc))],
            value,
            error,
            parts
        );
    }

    // With values that somebody has made up, by name as the expression reads them: vars.n, steps.load.rows.
    static (string? Value, string? Error, IReadOnlyList<PartInfo> Parts) ValueWith(
        string text,
        ExpressionView view,
        IReadOnlyDictionary<string, Value> made
    )
    {
        var types = view.Names.ToDictionary(n => n.Name, n => CelType.Parse(n.Type) ?? CelType.Dyn);
        var values = new Dictionary<string, Value>();
        foreach (var (name, value) in made)
        {
            var (fits, problem) = Conversion.To(types.GetValueOrDefault(name, CelType.Dyn), value);
            if (fits is not { } read)
                return (null, $"{name}: {problem}", []);
            values[name] = read;
        }
        return Shown(Expression.Parse(text).Expression!, new DictionaryBindings(values));
    }

    static (string? Value, string? Error, IReadOnlyList<PartInfo> Parts) Shown(Expression expression, IBindings names)
    {
        var (value, parts) = expression.EvaluateExplained(names);
        return value.IsError
            ? (null, value.AsError.Message, JsonViews.Parts(parts))
            : (ValueText.Show(value, 400), null, JsonViews.Parts(parts));
    }

    static Task<(string? Value, string? Error, IReadOnlyList<PartInfo> Parts)> ValueOfAsync(
        ExpressionRequest request,
        long run,
        RunReader runs,
        TimeProvider time
    )
    {
        var expression = Expression.Parse(request.Text).Expression!;
        var spot = DesignViews.Spot(request);
        return runs.ReadAsync<(string?, string?, IReadOnlyList<PartInfo>)>(run, (state, _) =>
            PastRunBindings.Of(state, spot.SeenScope, spot.OwnId, time.GetUtcNow()) is { } names
                ? Shown(expression, names)
                : (null, $"run {run} has not come to this place", [])
        );
    }
}
