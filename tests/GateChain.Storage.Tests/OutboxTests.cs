using GateChain.Core.Identity;
using GateChain.Storage.Sqlite;

namespace GateChain.Storage.Tests;

/// <summary>News of runs stand with the decision that made them, until all consumers have handled them.</summary>
public sealed class OutboxTests : IDisposable
{
    readonly TempFolder _folder = new();
    readonly Listener _listener = new();
    SqliteStore _store;

    public OutboxTests() => _store = new(_folder["db"]);

    public void Dispose()
    {
        _store.Dispose();
        _folder.Dispose();
    }

    void Reopen()
    {
        _store.Dispose();
        _store = new(_folder["db"]);
    }

    async Task<AppendOutcome> AppendAsync(long run, long seq, string state, params RunNewsKind[] news)
    {
        var head = new RunHead(
            run,
            "c",
            "hash",
            state,
            1,
            Actor.Person("ann"),
            DateTimeOffset.UnixEpoch,
            null,
            "{}",
            null
        );
        _store.Append(new(run, 1, seq, [1], head, _listener) { News = news });
        return await _listener.Outcome(run, seq).WaitAsync(TimeSpan.FromSeconds(20));
    }

    string Rows(long after = 0) =>
        string.Join(", ", _store.Outbox.ReadOutbox(after, 1000).Select(r => $"{r.Run}.{r.Seq} {r.Kind} {r.State}"));

    [Fact]
    public async Task NewsAreWrittenWithTheirDecisionAndNotWithoutIt()
    {
        await _store.Outbox.OpenAsync(["a"]);
        await AppendAsync(1, 1, "running", RunNewsKind.Started);
        await AppendAsync(1, 2, "running");
        await AppendAsync(2, 1, "paused", RunNewsKind.Started, RunNewsKind.Paused);
        await AppendAsync(1, 3, "failed", RunNewsKind.Late, RunNewsKind.Ended);
        // Another node has taken it over: what this one decides is not news.
        await _store.TakeOverAsync(2);
        Assert.Equal(AppendOutcome.Fenced, await AppendAsync(2, 2, "failed", RunNewsKind.Ended));
        const string all =
            "1.1 Started running, 2.1 Started paused, 2.1 Paused paused, 1.3 Late failed, 1.3 Ended failed";
        Assert.Equal(all, Rows());
        Assert.Equal("1.3 Ended failed", Rows(after: 4));
        Reopen();
        Assert.Equal(all, Rows());
    }

    [Fact]
    public async Task ACursorIsKeptAndWhatAllHaveHandledGoes()
    {
        await _store.Outbox.OpenAsync(["a", "b"]);
        for (var i = 1; i <= 3; i++)
            await AppendAsync(1, i, $"s{i}", RunNewsKind.Late);
        _store.Outbox.Handled("a", 3);
        _store.Outbox.Handled("b", 1);
        // An end in good order writes what was handled.
        Reopen();
        var cursors = await _store.Outbox.OpenAsync(["a", "b"]);
        Assert.Equal((3, 1), (cursors["a"], cursors["b"]));
        Assert.Equal("1.2 Late s2, 1.3 Late s3", Rows());
    }

    [Fact]
    public async Task OneThatIsNewBeginsNowAndOneThatIsGoneHoldsNothingBack()
    {
        await _store.Outbox.OpenAsync(["slow"]);
        await AppendAsync(1, 1, "running", RunNewsKind.Started);
        await AppendAsync(1, 2, "failed", RunNewsKind.Ended);
        Reopen();
        var cursors = await _store.Outbox.OpenAsync(["new"]);
        Assert.Equal(2, Assert.Single(cursors).Value);
        Assert.Equal("", Rows());
        // The table is empty now; the next one all the same does not begin before what was.
        Reopen();
        Assert.Equal(2, (await _store.Outbox.OpenAsync(["new", "other"]))["other"]);
    }

    [Fact]
    public async Task ManyHandledRowsGoWhileTheServiceRuns()
    {
        await _store.Outbox.OpenAsync(["a"]);
        for (var i = 1; i <= 300; i++)
            await AppendAsync(1, i, "s", RunNewsKind.Late);
        _store.Outbox.Handled("a", 299);
        await AppendAsync(1, 301, "s", RunNewsKind.Late);
        Assert.Equal("1.300 Late s, 1.301 Late s", Rows());
    }
}
