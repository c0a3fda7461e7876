using GateChain.Core.Chains;
using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Nodes;
using GateChain.Engine.Runs;
using GateChain.Engine.Sharing;
using GateChain.Storage;

namespace GateChain.Engine.Tests.Nodes;

/// <summary>What nodes say to each other, and which of them does what one does for all.</summary>
public sealed class NodeTests
{
    static StoredNode Node(string id, int started, int silent = 0, bool ownsRuns = true, bool drains = false) =>
        new(
            id,
            id,
            "",
            [],
            "1",
            DateTimeOffset.UnixEpoch.AddSeconds(started),
            default,
            TimeSpan.FromSeconds(silent),
            ownsRuns,
            drains
        );

    [Fact]
    public void TheFirstThatIsThereLeads()
    {
        string[] living = ["a", "b", "c", "d", "e"];
        Assert.Equal("b", Leader(Node("a", 3), Node("b", 1), Node("c", 2)));
        // Of two that came at once, one.
        Assert.Equal("a", Leader(Node("b", 1), Node("a", 1)));
        Assert.Equal("c", Leader(Node("a", 1, silent: 7), Node("b", 2, ownsRuns: false), Node("c", 4)));
        Assert.Equal("e", Leader(Node("d", 1, drains: true), Node("e", 9), Node("f", 0)));
        Assert.Null(Leader(Node("f", 0), Node("a", 1) with { Left = DateTimeOffset.UnixEpoch }));

        string? Leader(params StoredNode[] nodes) => NodeWork.LeaderOf(nodes, living)?.Id;
    }

    /// <summary>Two nodes in one process.</summary>
    sealed class Pair(NodeAnswers there) : INodeLink
    {
        public string Id => "here";

        public IReadOnlyCollection<string> Living => ["here", "there"];

        public Task<byte[]> AskAsync(string node, string what, byte[] body) => there.AnswerAsync(what, body);
    }

    public static TheoryData<object> Orders { get; } =
    [
        new RunOrder.Stop(1, Ann, "why"),
        new RunOrder.Pause(1, Ann, null),
        new RunOrder.Answer(1, Ann, "a/b", PauseAnswer.Settle, Odd, "so"),
        new RunOrder.Cancel(1, Ann, "a", Outcome.Skipped, Odd, null),
        new RunOrder.Hold(1, Ann, "a", HoldAnswer.Look, null),
        new RunOrder.Gone(1, Ann, "a"),
        new RunOrder.Recover(1, Ann),
    ];

    static FarActor Ann => new(ActorKind.Token, "7", "ann", "10.0.0.1", "token nightly");

    // What is told apart in a journal is told apart on the way.
    static Value Odd =>
        Value.Map(
            ("i", Value.Int(long.MaxValue)),
            ("d", Value.Double(-0.0)),
            ("t", Value.Timestamp(DateTimeOffset.UnixEpoch)),
            ("n", Value.Null),
            ("s", Value.String("a\0\u2028“x”"))
        );

    [Theory]
    [MemberData(nameof(Orders))]
    public async Task AnOrderComesOutAsItWentIn(object order)
    {
        var answers = new NodeAnswers();
        RunOrder? came = null;
        answers.Add<RunOrder, int>("run", o =>
        {
            came = o;
            return Task.FromResult(4);
        });
        Assert.Equal(4, await NodeAnswers.AskAsync<RunOrder, int>(new Pair(answers), "there", "run", (RunOrder)order));
        Assert.Equal(order, came);
    }

    [Fact]
    public async Task AResumeComesOutAsItWentIn()
    {
        var answers = new NodeAnswers();
        RunOrder.Resume? came = null;
        answers.Add<RunOrder, int>("run", o =>
        {
            came = (RunOrder.Resume)o;
            return Task.FromResult(0);
        });
        var options = new ResumeOptions
        {
            Set = new Dictionary<string, Value> { ["params.x"] = Odd },
            From = ["a"],
            Skip = ["b", "c"],
            Settle = new Dictionary<string, Value> { ["d"] = Odd },
            Release = "latest",
        };
        await NodeAnswers.AskAsync<RunOrder, int>(
            new Pair(answers),
            "there",
            "run",
            new RunOrder.Resume(9, Ann, options, Automatic: true)
        );
        Assert.True(came!.Automatic);
        Assert.Equal(options.Set, came.Options.Set);
        Assert.Equal(options.Settle, came.Options.Settle);
        Assert.Equal(options.From.Concat(options.Skip), came.Options.From.Concat(came.Options.Skip));
        Assert.Equal("latest", came.Options.Release);
    }

    [Fact]
    public async Task AStartComesOutAsItWentIn()
    {
        var answers = new NodeAnswers();
        var came = new List<StartOrder>();
        answers.Add<StartOrder, long>(StartRouter.Question, o =>
        {
            came.Add(o);
            return Task.FromResult(7L);
        });
        var run = new StartOrder.Run("c", new Dictionary<string, Value> { ["x"] = Odd }, "test", Ann);
        var restart = new StartOrder.Restart(5, true, Ann);
        foreach (var order in (StartOrder[])[run, restart])
        {
            Assert.Equal(
                7,
                await NodeAnswers.AskAsync<StartOrder, long>(new Pair(answers), "there", StartRouter.Question, order)
            );
        }
        Assert.Equal(run with { Given = ((StartOrder.Run)came[0]).Given }, came[0]);
        Assert.Equal(Odd, ((StartOrder.Run)came[0]).Given["x"]);
        Assert.Equal(restart, came[1]);
    }

    [Fact]
    public async Task AnAttemptAndWhatCameOfItComeOutAsTheyWentIn()
    {
        var answers = new NodeAnswers();
        FarQuestion? came = null;
        var result = new AttemptResult(Odd, new("exit-code", "it said no", "three\nlines"), ["a warning"]);
        answers.Add<FarQuestion, FarState>(AttemptHost.Ask, q =>
        {
            came = q;
            return Task.FromResult(new FarState(true, result, new(5, 7, 0.5, 1.5)));
        });
        var order = new AttemptOrder(1, "a[2]/b", "a/b", 2, 17, "sql", "hash", "sales", true, new("u", "a", 3), Odd);
        var state = await NodeAnswers.AskAsync<FarQuestion, FarState>(
            new Pair(answers),
            "there",
            AttemptHost.Ask,
            new(1, 17, 4, order, "dmz")
        );
        Assert.Equal(order, came!.Order);
        Assert.Equal((result.Outputs, result.Error), (state.Result!.Outputs, state.Result.Error));
        Assert.Equal(result.Warnings, state.Result.Warnings);
        Assert.Equal(new(5, 7, 0.5, 1.5), state.Progress);
    }

    [Fact]
    public async Task ARefusalIsOneForWhoAsked()
    {
        var answers = new NodeAnswers();
        answers.Add<int, int>("no", _ =>
            throw new RefusedException(RefusalKind.Conflict, "not now", ["more"]) { Busy = 5, IsTaken = true }
        );
        answers.Add<int, int>("elsewhere", _ => throw new NodeSilentException("not here"));
        var link = new Pair(answers);
        var refused = await Assert.ThrowsAsync<RefusedException>(() =>
            NodeAnswers.AskAsync<int, int>(link, "there", "no", 1)
        );
        Assert.Equal(
            (RefusalKind.Conflict, "not now", "more", 5L, true),
            (refused.Kind, refused.Message, refused.Details[0], refused.Busy!.Value, refused.IsTaken)
        );
        await Assert.ThrowsAsync<NodeSilentException>(() =>
            NodeAnswers.AskAsync<int, int>(link, "there", "elsewhere", 1)
        );
        await Assert.ThrowsAsync<NodeSilentException>(() =>
            NodeAnswers.AskAsync<int, int>(link, "there", "nobody knows", 1)
        );
    }
}
