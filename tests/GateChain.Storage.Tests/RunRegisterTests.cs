using GateChain.Core.Identity;
using GateChain.Storage.Sqlite;

namespace GateChain.Storage.Tests;

/// <summary>
/// The lines of runs lie partly in the journal's tail and partly in their table: lists must not show it.
/// </summary>
public sealed class RunRegisterTests : IDisposable
{
    readonly TempFolder _folder = new();

    public void Dispose() => _folder.Dispose();

    static readonly string[] Chains = ["milk", "cows", "vets"],
        States = ["running", "paused", "failed", "succeeded"];

    [Theory]
    [InlineData(1, 0)]
    [InlineData(2, 30_000)]
    [InlineData(3, 90_000)]
    public async Task ListsAreThoseOfAModelWhereverTheLinesLie(int seed, int size)
    {
        var random = new Random(seed);
        using var store = new SqliteStore(_folder["db"]);
        var (listener, model, seqs) = (
            new Listener(),
            new SortedDictionary<long, RunHead>(),
            new Dictionary<long, long>()
        );
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
            var head = old is not null
                ? old with
                {
                    State = state,
                    Ended = ended,
                    Leg = old.Leg + 1,
                    ResumeAt = again,
                    Error = state == "failed" ? "it “broke”" : null,
                    Late = random.Next(2) == 0,
                }
                : new RunHead(
                    store.NextId(),
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
            if (old is null && head.Parent is { } call)
                head = head with { Origin = "call", OriginKey = $"call:{call.Run}:{call.Attempt}:{call.Step}" };
            model[head.Id] = head;
            var seq = seqs[head.Id] = seqs.GetValueOrDefault(head.Id) + 1;
            store.Append(new(head.Id, 1, seq, new byte[random.Next(size + 1)], head, listener));
            Assert.Equal(
                AppendOutcome.Written,
                await listener.Outcome(head.Id, seq).WaitAsync(TimeSpan.FromSeconds(20))
            );
            if (i % 10 == 0)
                Compare(store);
        }
        Compare(store);
        store.Dispose();
        using var again2 = new SqliteStore(_folder["db"]);
        Compare(again2);

        void Compare(SqliteStore of)
        {
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
            Assert.Equal(expected, of.List(query));
            var each = random.Next(1, 20);
            var newest = of.Newest(["milk", "vets", "none", "milk"], each);
            Assert.Equal(["milk", "none", "vets"], newest.Keys.Order());
            foreach (var (chain, runs) in newest)
                Assert.Equal(model.Values.Reverse().Where(h => h.Chain == chain).Take(each), runs);
            Assert.Equal(model.Values.Where(h => h.ResumeAt is not null), of.ToResume());
            var one = model.Values.ElementAt(random.Next(model.Count));
            Assert.Equal(one, of.Find(one.Id));
            if (one.OriginKey is { } key)
                Assert.Equal(one, of.FindByOrigin(key));
            Assert.Null(of.FindByOrigin($"call:{one.Id}:-1:call"));
        }
    }
}
