using GateChain.Access.Audit;
using GateChain.Core.Identity;
using GateChain.Storage;

namespace GateChain.Access.Tests;

/// <summary>The audit log tells when a line was changed, taken away, put in or moved.</summary>
public class AuditTests
{
    /// <summary>Lines in memory, so that they can be tampered with.</summary>
    sealed class Log : IAuditLog
    {
        public List<AuditEntry> Lines { get; } = [];

        public ValueTask<IReadOnlyList<AuditEntry>> ListAsync(AuditQuery? query = null) =>
            throw new NotSupportedException();

        public ValueTask<IReadOnlyList<AuditEntry>> AfterAsync(long after, int most) =>
            new([.. Lines.Where(l => l.Number > after).OrderBy(l => l.Number).Take(most)]);

        public ValueTask<(long Number, string Seal)> LastSealAsync() =>
            new(Lines.Where(l => l.Seal is not null).Select(l => (l.Number, l.Seal!)).LastOrDefault((0, "")));

        public Task SealAsync(IReadOnlyList<(long Number, string Seal)> seals)
        {
            foreach (var (number, seal) in seals)
                Lines[(int)number - 1] = Lines[(int)number - 1] with { Seal = seal };
            return Task.CompletedTask;
        }

        public Task AddAsync(IReadOnlyList<AuditLine> lines)
        {
            foreach (var line in lines)
                Lines.Add(new(Lines.Count + 1, line, null));
            return Task.CompletedTask;
        }
    }

    static AuditLine Line(int i) =>
        new(
            new(2026, 11, 29, 6, 0, i, TimeSpan.Zero),
            new(ActorKind.Person, $"id{i}", "ann") { Source = "10.0.0.9", Through = i % 2 == 0 ? null : "console" },
            "stop",
            $"run {i}",
            i % 3 == 0 ? null : $"because {i}"
        );

    static async Task<Log> SealedAsync(int lines)
    {
        var log = new Log();
        await log.AddAsync([.. Enumerable.Range(1, lines).Select(Line)]);
        var seal = "";
        var seals = new List<(long, string)>();
        foreach (var line in log.Lines)
            seals.Add((line.Number, seal = AuditSeals.Of(seal, line)));
        await log.SealAsync(seals);
        return log;
    }

    static Task<AuditFinding> VerifyAsync(Log log, Dictionary<long, string>? anchors = null) =>
        AuditCheck.VerifyAsync(log, anchors ?? [], TestContext.Current.CancellationToken);

    static readonly (string What, Func<AuditLine, AuditLine> Change)[] Changes =
    [
        ("moment", l => l with { At = l.At.AddTicks(1) }),
        ("kind", l => l with { By = l.By with { Kind = ActorKind.Token } }),
        ("id", l => l with { By = l.By with { Id = "x" } }),
        ("name", l => l with { By = l.By with { Name = "eve" } }),
        ("source", l => l with { By = l.By with { Source = "10.0.0.1" } }),
        ("through", l => l with { By = l.By with { Through = "token x" } }),
        ("action", l => l with { Action = "start" }),
        ("object", l => l with { Object = l.Object + "0" }),
        ("detail", l => l with { Detail = l.Detail is null ? "" : null }),
        // The same letters, divided otherwise.
        ("border", l => l with { Action = l.Action + l.Object[..1], Object = l.Object[1..] }),
    ];

    [Fact]
    public async Task ALineThatIsChangedTakenAwayOrMovedIsFoundWhereverItStands()
    {
        const int lines = 25;
        Assert.Empty((await VerifyAsync(await SealedAsync(lines))).Wrong);
        for (var at = 0; at < lines; at++)
        {
            foreach (var (what, change) in Changes)
            {
                var log = await SealedAsync(lines);
                log.Lines[at] = log.Lines[at] with { Line = change(log.Lines[at].Line) };
                Assert.True((await VerifyAsync(log)).Wrong.Count > 0, $"{what} of line {at + 1}");
            }
            if (at == lines - 1)
                continue;
            var missing = await SealedAsync(lines);
            missing.Lines.RemoveAt(at);
            Assert.Contains((await VerifyAsync(missing)).Wrong, w => w.Contains("missing"));
            var swapped = await SealedAsync(lines);
            (swapped.Lines[at], swapped.Lines[at + 1]) = (
                swapped.Lines[at] with
                {
                    Line = swapped.Lines[at + 1].Line,
                },
                swapped.Lines[at + 1] with
                {
                    Line = swapped.Lines[at].Line,
                }
            );
            Assert.NotEmpty((await VerifyAsync(swapped)).Wrong);
            var bare = await SealedAsync(lines);
            bare.Lines[at] = bare.Lines[at] with { Seal = null };
            Assert.NotEmpty((await VerifyAsync(bare)).Wrong);
        }
    }

    [Fact]
    public async Task ATailThatIsCutOffOrMadeAnewDoesNotFitTheAnchors()
    {
        var log = await SealedAsync(10);
        var anchors = new Dictionary<long, string> { [4] = log.Lines[3].Seal!, [10] = log.Lines[9].Seal! };
        Assert.Empty((await VerifyAsync(log, anchors)).Wrong);
        var cut = await SealedAsync(9);
        Assert.Contains((await VerifyAsync(cut, anchors)).Wrong, w => w.Contains("cut off"));
        // Somebody who can write the database makes all seals anew: they fit each other, and not the log file.
        var anew = new Log();
        await anew.AddAsync([.. Enumerable.Range(1, 10).Select(i => Line(i) with { Action = i == 3 ? "x" : "stop" })]);
        var seal = "";
        await anew.SealAsync([.. anew.Lines.Select(l => (l.Number, seal = AuditSeals.Of(seal, l)))]);
        Assert.Empty((await VerifyAsync(anew)).Wrong);
        Assert.Contains((await VerifyAsync(anew, anchors)).Wrong, w => w.Contains("anchored"));
    }

    [Fact]
    public async Task EveryChangeHasItsLineAndItsSeal()
    {
        await using var house = await House.NewAsync();
        var ann = await house.AddAsync("ann", "admin");
        await Task.WhenAll(
            Enumerable
                .Range(0, 40)
                .Select(i => house.Access.Tokens.AddAsync(ann, $"t{i}", House.Grants("viewer"), null, House.Me))
        );
        await house.Access.Sealer.SealAsync();
        await house.RestartAsync();
        await house.SignInAsync("ann", "wrong");
        await house.Access.Sealer.SealAsync();
        var found = await AuditCheck.VerifyAsync(
            house.Store.Audit,
            new Dictionary<long, string>(),
            TestContext.Current.CancellationToken
        );
        Assert.Empty(found.Wrong);
        Assert.Equal(0, found.Unsealed);
        var audit = await house.AuditAsync();
        Assert.Equal(40, audit.Count(l => l.StartsWith("test: add token t", StringComparison.Ordinal)));
        Assert.Equal("ann: refuse sign-in account ann", audit[^1]);
    }
}
