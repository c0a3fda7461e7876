using GateChain.Core.Identity;

namespace GateChain.Storage.Tests.Contract;

/// <summary>The lines of runs follow the journal, wherever a store has them.</summary>
public abstract class RunListContract(IStorePlace place) : StoreContract(place)
{
    [Fact]
    public async Task LinesFollowTheJournalAndCanBeListed()
    {
        for (var i = 0; i < 5; i++)
            await NewRunAsync(i % 2 == 0 ? "even" : "odd");
        await AppendAsync(3, 2, stored: Head(3, "failed", Epoch.AddHours(1), "even") with { Error = "broke", Leg = 2 });
        var third = (await Store.Runs.FindAsync(3))!;
        Assert.Equal(("failed", "broke", 2), (third.State, third.Error, third.Leg));
        Assert.Equal([5, 4, 3, 2, 1], await IdsAsync(new()));
        Assert.Equal([5, 3, 1], await IdsAsync(new(Chain: "even")));
        Assert.Equal([3], await IdsAsync(new(State: "failed")));
        Assert.Equal([2, 1], await IdsAsync(new(Before: 3)));
        Assert.Equal([1, 2, 4, 5], (await Store.Ownership.ClaimUnendedAsync()).Select(c => c.Run.Id));
        Assert.Null(await Store.Runs.FindAsync(99));
    }

    async Task<IEnumerable<long>> IdsAsync(RunQuery query) => (await Store.Runs.ListAsync(query)).Select(h => h.Id);

    [Theory]
    [InlineData("WEST", "1")]
    [InlineData("%", "2")]
    [InlineData("_x_", "3")]
    [InlineData("a\\\\b", "4")]
    [InlineData("nobody", "")]
    public async Task ATextIsFoundInParametersAsItIsWrittenInEitherCase(string text, string found)
    {
        var values = (string[])["{\"d\": \"west\"}", "{\"d\": \"5%\"}", "{\"d\": \"_x_\"}", "{\"d\": \"a\\\\b\"}"];
        foreach (var (value, i) in values.Select((v, i) => (v, i)))
        {
            await NewRunAsync();
            await AppendAsync(i + 1, 2, stored: Head(i + 1, "succeeded", Epoch.AddHours(1)) with { Params = value });
        }
        await ReopenAsync();
        Assert.Equal(found, string.Join(' ', await IdsAsync(new(Text: text))));
    }

    [Fact]
    public async Task WhoIsDueComesByMomentThenNumber()
    {
        foreach (var days in (int?[])[3, 1, null, 2, 1])
        {
            var run = await NewRunAsync();
            await AppendAsync(
                run,
                2,
                stored: Head(run, "failed", Epoch) with
                {
                    ResumeAt = days is { } d ? Epoch.AddDays(d) : null,
                }
            );
        }
        Assert.Equal([2, 5, 4, 1], (await Store.Ownership.NextDueAsync(null, 10)).Select(d => d.Run));
        var first = (await Store.Ownership.NextDueAsync(null, 2))[^1];
        Assert.Equal(new DueRun(5, Epoch.AddDays(1)), first);
        Assert.Equal([4, 1], (await Store.Ownership.NextDueAsync(first, 2)).Select(d => d.Run));
    }

    static readonly string[] Chains = ["milk", "cows", "vets"],
        States = ["running", "paused", "failed", "succeeded"];

    [Theory]
    [InlineData(1, 0)]
    [InlineData(2, 30_000)]
    [InlineData(3, 90_000)]
    public async Task ListsAreThoseOfAModelWhereverTheLinesLie(int seed, int size)
    {
        var random = new Random(seed);
        var (model, seqs) = (new SortedDictionary<long, StoredRun>(), new Dictionary<long, long>());
        for (var i = 0; i < 400; i++)
        {
            // Twice as many new runs as changes of old ones; the sizes make some be sorted in meanwhile.
            var old = model.Count > 0 && random.Next(3) == 0 ? model.Values.ElementAt(random.Next(model.Count)) : null;
            var state = States[random.Next(States.Length)];
            var ended = state is "failed" or "succeeded"
                ? DateTimeOffset.UnixEpoch.AddSeconds(i)
                : (DateTimeOffset?)null;
            DateTimeOffset? again =
                state == "failed" && random.Next(2) == 0 ? DateTimeOffset.UnixEpoch.AddDays(i) : null;
            var stored = old is not null
                ? old with
                {
                    State = state,
                    Ended = ended,
                    Leg = old.Leg + 1,
                    ResumeAt = again,
                    Error = state == "failed" ? "it “broke”" : null,
                    Late = random.Next(2) == 0,
                }
                : new StoredRun(
                    await Store.Runs.NextIdAsync(),
                    Chains[random.Next(Chains.Length)],
                    "hash",
                    state,
                    1,
                    i % 3 == 0 ? Actor.Person("ann") : new Actor(ActorKind.Token, $"t{i}", "the loader"),
                    DateTimeOffset.UnixEpoch.AddMinutes(i),
                    ended,
                    "{\"n\":1}",
                    null,
                    ResumeAt: again,
                    Parent: model.Count > 0 && random.Next(4) == 0
                        ? new(model.Keys.ElementAt(random.Next(model.Count)), "call", i)
                        : null,
                    Origin: "person"
                );
            if (old is null && stored.Parent is { } call)
                stored = stored with { Origin = "call", OriginKey = $"call:{call.Run}:{call.Attempt}:{call.Step}" };
            model[stored.Id] = stored;
            var seq = seqs[stored.Id] = seqs.GetValueOrDefault(stored.Id) + 1;
            Store.Journal.Append(new(stored.Id, 1, seq, new byte[random.Next(size + 1)], stored, Listener));
            Assert.Equal(
                AppendOutcome.Written,
                await Listener.Outcome(stored.Id, seq).WaitAsync(TimeSpan.FromSeconds(20))
            );
            if (i % 10 == 0)
                await CompareAsync();
        }
        await CompareAsync();
        await ReopenAsync();
        await CompareAsync();

        async Task CompareAsync()
        {
            var of = Store.Runs;
            T? Some<T>(T value) => random.Next(2) == 0 ? value : default;
            var query = new RunQuery(
                Some(Chains[random.Next(3)]),
                Some(States[random.Next(4)]),
                random.Next(2) == 0 ? random.Next(model.Count + 2) : null,
                random.Next(1, 40),
                random.Next(4) == 0 ? model.Values.Select(h => h.Parent?.Run).FirstOrDefault(r => r is not null) : null
            );
            var expected = model
                .Values.Reverse()
                .Where(h =>
                    (query.Chain is null || h.Chain == query.Chain)
                    && (query.State is null || h.State == query.State)
                    && (query.Before is null || h.Id < query.Before)
                    && (query.Parent is null || h.Parent?.Run == query.Parent)
                )
                .Take(query.Limit);
            Assert.Equal(expected, await of.ListAsync(query));
            var each = random.Next(1, 20);
            var newest = await of.NewestAsync(["milk", "vets", "none", "milk"], each);
            Assert.Equal(["milk", "none", "vets"], newest.Keys.Order());
            foreach (var (chain, runs) in newest)
                Assert.Equal(model.Values.Reverse().Where(h => h.Chain == chain).Take(each), runs);
            Assert.Equal(
                model
                    .Values.Where(h => h.ResumeAt is not null)
                    .OrderBy(h => (h.ResumeAt, h.Id))
                    .Select(h => new DueRun(h.Id, h.ResumeAt!.Value))
                    .Take(500),
                await Store.Ownership.NextDueAsync(null, 500)
            );
            var one = model.Values.ElementAt(random.Next(model.Count));
            Assert.Equal(one, await of.FindAsync(one.Id));
            if (one.OriginKey is { } key)
                Assert.Equal(one, await of.FindByOriginAsync(key));
            Assert.Null(await of.FindByOriginAsync($"call:{one.Id}:-1:call"));
        }
    }
}
