namespace GateChain.Storage.Tests.Contract;

/// <summary>Decisions are kept in order, once, and only of who owns the run.</summary>
public abstract class JournalContract(IStorePlace place) : StoreContract(place)
{
    [Fact]
    public async Task RowsComeBackInOrderAndBehindANumber()
    {
        var run = await NewRunAsync();
        for (var i = 2; i <= 2500; i++)
            Store.Journal.Append(new(run, 1, i, System.Text.Encoding.UTF8.GetBytes($"row{i}"), null, Listener));
        Assert.Equal(AppendOutcome.Written, await Listener.Outcome(run, 2500));
        Assert.Equal(
            "1:born " + string.Join(' ', Enumerable.Range(2, 2499).Select(i => $"{i}:row{i}")),
            await RowsAsync(run)
        );
        Assert.Equal("2499:row2499 2500:row2500", await RowsAsync(run, after: 2498));
        Assert.Equal("", await RowsAsync(run + 1));
    }

    [Fact]
    public async Task AnOldEpochWritesNothing()
    {
        var run = await NewRunAsync();
        var claim = Assert.Single(await Store.Ownership.ClaimUnendedAsync());
        Assert.Equal((run, 2), (claim.Run.Id, claim.Epoch));
        Assert.Equal(AppendOutcome.Fenced, await AppendAsync(run, 2, epoch: 1));
        Assert.Equal(AppendOutcome.Written, await AppendAsync(run, 3, "mine", epoch: 2));
        Assert.Equal("1:born 3:mine", await RowsAsync(run));
    }

    [Fact]
    public async Task TheSameNumberTwiceWritesOnce()
    {
        var run = await NewRunAsync();
        await AppendAsync(run, 2, "first");
        var other = new Listener();
        Store.Journal.Append(new(run, 1, 2, [1], null, other));
        Assert.Equal(AppendOutcome.Fenced, await other.Outcome(run, 2));
        Store.Journal.Append(new(run, 1, 1, [1], Head(run), other));
        Assert.Equal(AppendOutcome.Fenced, await other.Outcome(run, 1));
        Assert.Equal("1:born 2:first", await RowsAsync(run));
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public async Task ThereIsOneRunForAnOccasion(bool claimed)
    {
        var call = new Core.Identity.RunOrigin.Call(9, "a/b", 2);
        StoredRun Of(long run, string key) => Head(run) with { Origin = call.Word, OriginKey = key };
        var first = await Store.Runs.NextIdAsync();
        Assert.Equal(AppendOutcome.Written, await AppendAsync(first, 1, stored: Of(first, call.Key)));
        // Wherever the line of the first one lies.
        if (claimed)
            await Store.Ownership.ClaimAsync(first);
        var second = await Store.Runs.NextIdAsync();
        Assert.Equal(AppendOutcome.Taken, await AppendAsync(second, 1, stored: Of(second, call.Key)));
        Assert.Null(await Store.Runs.FindAsync(second));
        Assert.Equal("", await RowsAsync(second));
        Assert.Equal(first, (await Store.Runs.FindByOriginAsync(call.Key))!.Id);
        var other = await Store.Runs.NextIdAsync();
        Assert.Equal(AppendOutcome.Written, await AppendAsync(other, 1, stored: Of(other, "call:9:3:a/b")));
    }

    [Fact]
    public async Task WhatADecisionBringsIsWrittenWithItOrNotAtAll()
    {
        var run = await NewRunAsync();
        AppendExtras Brings(string key, string value) =>
            new(
                [key, $"{key}/b"],
                new KeptSet("c", "", long.Parse(value), value),
                Line("stop", $"run {run}") with
                {
                    Detail = value,
                }
            )
            {
                Positions = [new("c", "", "last", value) { Run = run, Step = "a/b" }],
            };
        Assert.Equal(AppendOutcome.Written, await AppendAsync(run, 2, extras: Brings("fire 1", "1")));
        // One of its keys is taken: nothing of it is written, and the number is free for another decision.
        Assert.Equal(
            AppendOutcome.Taken,
            await AppendAsync(run, 3, extras: Brings("fire 2", "2") with { Keys = ["fire 2", "fire 1/b"] })
        );
        var again = new Listener();
        Store.Journal.Append(new(run, 1, 3, "y"u8.ToArray(), null, again) { Extras = Brings("fire 2", "3") });
        Assert.Equal(AppendOutcome.Written, await again.Outcome(run, 3));
        // Somebody who does not own the run any more brings nothing either.
        await Store.Ownership.ClaimAsync(run);
        Assert.Equal(AppendOutcome.Fenced, await AppendAsync(run, 4, extras: Brings("fire 4", "4")));
        await ReopenAsync();
        Assert.Equal("1:born 2:x 3:y", await RowsAsync(run));
        Assert.Equal((3, "3"), await Store.Kept.FindAsync("c", "") is { } kept ? (kept.Version, kept.Values) : default);
        Assert.Null(await Store.Kept.FindAsync("other", ""));
        Assert.Equal(["3", "1"], (await Store.Audit.ListAsync()).Select(e => e.Line.Detail));
        // A person sets them too.
        await Store.Kept.SetAsync(new("c", "test", 1, "{}") { By = "Maeve" }, Line("keep", "chain c"));
        Assert.Equal(["", "test"], (await Store.Kept.ListAsync("c")).Select(k => k.Profile));
        await Store.Kept.SetPositionAsync(new("c", "test", "last", "7") { By = "Maeve" }, Line("keep", "chain c"));
        Assert.Equal(
            [("", "3", run, "a/b", null), ("test", "7", null, null, "Maeve")],
            (await Store.Kept.PositionsAsync("c")).Select(p => (p.Profile, p.Content, p.Run, p.Step, p.By))
        );
        await Store.Kept.ForgetPositionAsync("c", "", "last", Line("keep", "chain c"));
        Assert.Null(await Store.Kept.FindPositionAsync("c", "", "last"));
        Assert.Equal("7", (await Store.Kept.FindPositionAsync("c", "test", "last"))?.Content);
    }

    // A decision that brings nothing else.
    [Fact]
    public async Task APositionIsWrittenWithItsDecision()
    {
        var run = await NewRunAsync();
        for (var n = 2; n <= 4; n++)
        {
            var extras = new AppendExtras([], null, null) { Positions = [new("c", "p", "last", $"{n}")] };
            Assert.Equal(AppendOutcome.Written, await AppendAsync(run, n, extras: extras));
        }
        await ReopenAsync();
        Assert.Equal("4", (await Store.Kept.FindPositionAsync("c", "p", "last"))?.Content);
    }

    [Fact]
    public async Task WhatIsWrittenIsThereAfterANewStart()
    {
        var run = await NewRunAsync();
        await AppendAsync(run, 2, "kept");
        await ReopenAsync();
        Assert.Equal("1:born 2:kept", await RowsAsync(run));
        Assert.Equal(run + 1, await Store.Runs.NextIdAsync());
    }

    [Fact]
    public async Task AnotherOwnerFindsAllAndTheOldOneWritesNothingMore()
    {
        var run = await NewRunAsync();
        await using var young = await OpenAnotherAsync();
        // Behind the opening of the young one.
        Assert.Equal(AppendOutcome.Written, await AppendAsync(run, 2, "old"));
        Assert.Equal((run, 2), (await young.Ownership.ClaimAsync(run)) is var c ? (c!.Run.Id, c.Epoch) : default);
        Assert.Equal(AppendOutcome.Fenced, await AppendAsync(run, 3, "late", stored: Head(run, "failed")));
        young.Journal.Append(new(run, 2, 3, "new"u8.ToArray(), Head(run, "succeeded", Epoch), Listener2));
        Assert.Equal(AppendOutcome.Written, await Listener2.Outcome(run, 3));
        Assert.Equal(
            "born old new",
            string.Join(
                ' ',
                await young
                    .Journal.ReadAsync(run)
                    .Select(r => System.Text.Encoding.UTF8.GetString(r.Body))
                    .ToListAsync()
            )
        );
        Assert.Equal("succeeded", (await young.Runs.FindAsync(run))!.State);
        Assert.Empty(await young.Ownership.ClaimUnendedAsync());
        Assert.Null(await young.Ownership.ClaimAsync(run + 1));
    }

    Listener Listener2 { get; } = new();
}
