namespace GateChain.Storage.Tests.Contract;

/// <summary>News of runs stand with the decision that made them, until all consumers have handled them.</summary>
public abstract class OutboxContract(IStorePlace place) : StoreContract(place)
{
    async Task<AppendOutcome> AppendAsync(long run, long seq, string state, params RunNotificationKind[] notification)
    {
        Store.Journal.Append(new(run, 1, seq, [1], Head(run, state), Listener) { Notifications = notification });
        return await Listener.Outcome(run, seq).WaitAsync(TimeSpan.FromSeconds(20));
    }

    async Task<string> RowsAsync(long after = 0) =>
        string.Join(
            ", ",
            (await Store.Outbox.ReadAsync(after, 1000)).Select(r => $"{r.Run}.{r.Seq} {r.Kind} {r.State}")
        );

    [Fact]
    public async Task NewsAreWrittenWithTheirDecisionAndNotWithoutIt()
    {
        await Store.Outbox.OpenAsync(["a"]);
        await AppendAsync(1, 1, "running", RunNotificationKind.Started);
        await AppendAsync(1, 2, "running");
        await AppendAsync(2, 1, "paused", RunNotificationKind.Started, RunNotificationKind.Paused);
        await AppendAsync(1, 3, "failed", RunNotificationKind.Late, RunNotificationKind.Ended);
        // Another node has taken it over: what this one decides is not news.
        await Store.Ownership.ClaimAsync(2);
        Assert.Equal(AppendOutcome.Fenced, await AppendAsync(2, 2, "failed", RunNotificationKind.Ended));
        const string all =
            "1.1 Started running, 2.1 Started paused, 2.1 Paused paused, 1.3 Late failed, 1.3 Ended failed";
        Assert.Equal(all, await RowsAsync());
        Assert.Equal("1.3 Ended failed", await RowsAsync(after: 4));
        await ReopenAsync();
        Assert.Equal(all, await RowsAsync());
    }

    [Fact]
    public async Task ACursorIsKeptAndWhatAllHaveHandledGoes()
    {
        await Store.Outbox.OpenAsync(["a", "b"]);
        for (var i = 1; i <= 3; i++)
            await AppendAsync(1, i, $"s{i}", RunNotificationKind.Late);
        Store.Outbox.Handled("a", 3);
        Store.Outbox.Handled("b", 1);
        // An end in good order writes what was handled.
        await ReopenAsync();
        var cursors = await Store.Outbox.OpenAsync(["a", "b"]);
        Assert.Equal((3, 1), (cursors["a"], cursors["b"]));
        Assert.Equal("1.2 Late s2, 1.3 Late s3", await RowsAsync());
    }

    [Fact]
    public async Task OneThatIsNewBeginsNowAndOneThatIsGoneHoldsNothingBack()
    {
        await Store.Outbox.OpenAsync(["slow"]);
        await AppendAsync(1, 1, "running", RunNotificationKind.Started);
        await AppendAsync(1, 2, "failed", RunNotificationKind.Ended);
        await ReopenAsync();
        var cursors = await Store.Outbox.OpenAsync(["new"]);
        Assert.Equal(2, Assert.Single(cursors).Value);
        Assert.Equal("", await RowsAsync());
        // The table is empty now; the next one all the same does not begin before what was.
        await ReopenAsync();
        Assert.Equal(2, (await Store.Outbox.OpenAsync(["new", "other"]))["other"]);
    }

    [Fact]
    public async Task ManyHandledRowsGoWhileTheServiceRuns()
    {
        await Store.Outbox.OpenAsync(["a"]);
        for (var i = 1; i <= 300; i++)
            await AppendAsync(1, i, "s", RunNotificationKind.Late);
        Assert.Equal(300, (await Store.Outbox.ReadAsync(0, 1000)).Count);
        Store.Outbox.Handled("a", 299);
        await AppendAsync(1, 301, "s", RunNotificationKind.Late);
        Assert.Equal("1.300 Late s, 1.301 Late s", await RowsAsync());
    }
}
