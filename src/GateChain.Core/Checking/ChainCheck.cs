using GateChain.Core.Chains;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Identity;
using GateChain.Core.Problems;
using GateChain.Core.Values;

namespace GateChain.Core.Checking;

/// <summary>Reads and checks chain files. Pure; safe to use from several threads.</summary>
public sealed class ChainCheck(KindCatalogue kinds)
{
    static readonly ICheckRule[] Rules =
    [
        new CycleRule(),
        new ReachRule(),
        new ElseRule(),
        new ShadowRule(),
        new ExpressionRule(),
        new AssignRule(),
        new OrderRule(),
        new FailureRule(),
        new ConnectionRule(),
        new AttachmentRule(),
        new ChildChainRule(),
        new LaneRule(),
        new PlaceRule(),
        new ProfileRule(),
        new EventRule(),
        new KeepRule(),
        new RecoveryRule(),
        new SecretRule(),
        new PlainSecretRule(),
        new SecretParameterRule(),
    ];

    public KindCatalogue Kinds => kinds;

    /// <summary>
    /// The chain and everything that is wrong with it; the chain is null when nothing could be read, and not to be run
    /// when a problem is an error.
    /// </summary>
    /// <param name="file">The file's name for messages.</param>
    /// <param name="text">Its content.</param>
    /// <param name="workspace">What the workspace has beside the chain; null leaves out the checks that need
    /// it.</param>
    public (Chain? Chain, IReadOnlyList<Problem> Problems) Check(
        string file,
        string text,
        WorkspaceContext? workspace = null
    )
    {
        var problems = new ProblemList(file, text);
        var chain = ChainReader.Read(text, kinds, problems);
        return (chain, chain is null ? problems.Ordered : Check(chain, problems, workspace));
    }

    /// <summary>Everything that is wrong with a chain that has been read.</summary>
    /// <param name="chain">The chain; its calls are linked to what they run.</param>
    /// <param name="problems">What was wrong with reading it; gets the rest.</param>
    /// <param name="workspace">What the workspace has beside the chain; null leaves out the checks that need
    /// it.</param>
    public static IReadOnlyList<Problem> Check(Chain chain, ProblemList problems, WorkspaceContext? workspace)
    {
        Link(chain, workspace);
        var context = new CheckContext(chain, workspace, problems);
        foreach (var rule in Rules)
        {
            context.ThrowIfTimeIsUp();
            rule.Check(context);
        }
        var found = problems.Ordered;
        if (!found.Any(p => p.Kind.Severity == Severity.Hint))
            return found;
        var steps = chain.AllSteps.ToLookup(s => s.Address);
        return
        [
            .. found.Where(p => !chain.IsQuiet(p.Kind, p.Place?.Step is { } at ? steps[at].FirstOrDefault() : null)),
        ];
    }

    // Calls learn what their child takes and gives before anything is checked.
    static void Link(Chain chain, WorkspaceContext? workspace)
    {
        foreach (var call in chain.AllSteps.Select(s => s.Call).OfType<CallRule>())
            call.Target = workspace?.Find(call.Child);
    }
}

/// <summary>What stands beside a chain in its workspace.</summary>
/// <param name="Connections">Names of connections, with their types.</param>
/// <param name="Files">Names of the attachments.</param>
/// <param name="Chains">What the workspace's chains take and give, by name.</param>
/// <param name="Lanes">Names of lanes.</param>
public sealed record WorkspaceContext(
    IReadOnlyDictionary<string, string> Connections,
    IReadOnlySet<string> Files,
    IReadOnlyDictionary<string, ChainInterface> Chains,
    IReadOnlySet<string> Lanes
)
{
    /// <summary>Where the chain lies.</summary>
    public Area Area { get; init; }

    /// <summary>The values of the profiles, each a map, by the profile's name.</summary>
    public IReadOnlyDictionary<string, Value> Profiles { get; init; } = new Dictionary<string, Value>();

    /// <summary>
    /// What a numbered release of a chain takes and gives, null for one that is not there; null where releases are not
    /// known.
    /// </summary>
    public Func<string, int, ChainInterface?>? Releases { get; init; }

    /// <summary>Whether a secret of a name is set for the folder; null where secrets are not known.</summary>
    public Func<string, bool>? IsSecretSet { get; init; }

    /// <summary>The labels that nodes have; null where nodes are not known, and where there is only one.</summary>
    public IReadOnlySet<string>? Labels { get; init; }

    /// <summary>Ends a check that has taken long enough, with an <see cref="OperationCanceledException"/>.</summary>
    public CancellationToken Cancel { get; init; }

    /// <summary>What a call runs, as far as it is known.</summary>
    public ChainInterface? Find(CalledChain called) =>
        called.Release is { } number ? Releases?.Invoke(called.Name, number) : Chains.GetValueOrDefault(called.Name);
}

/// <summary>One thing that is checked about chains.</summary>
interface ICheckRule
{
    void Check(CheckContext context);
}
