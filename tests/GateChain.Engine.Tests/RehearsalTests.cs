using System.Text;
using GateChain.Core.Rehearsing;
using GateChain.Core.Running.Events;

namespace GateChain.Engine.Tests;

/// <summary>A rehearsal goes the way the real engine goes when its steps fare the same.</summary>
public sealed class RehearsalTests
{
    /// <summary>
    /// Random chains of steps that only count, in groups and loops, with all kinds of gates and joins.
    /// </summary>
    sealed class Maker(Random chance)
    {
        int _next;

        public List<string> Counting { get; } = [];

        public string Make()
        {
            var text = new StringBuilder("chain: t\n");
            Scope(text, 0, "", chance.Next(4, 9));
            return text.ToString();
        }

        void Scope(StringBuilder text, int depth, string address, int size)
        {
            var pad = new string(' ', depth * 2);
            var ids = Enumerable.Range(0, size).Select(_ => $"s{_next++}").ToList();
            text.Append($"{pad}steps:\n");
            foreach (var id in ids)
            {
                text.Append($"{pad}  {id}:\n{pad}    join: {new[] { "all", "any", "some" }[chance.Next(3)]}\n");
                if (chance.Next(5) == 0)
                    text.Append($"{pad}    ifFails: absorb\n");
                switch (depth < 3 ? chance.Next(6) : 0)
                {
                    case 1:
                        text.Append($"{pad}    kind: group\n");
                        Scope(text, depth + 2, $"{address}{id}/", chance.Next(1, 4));
                        break;
                    case 2:
                        text.Append(
                            $"{pad}    kind: each\n{pad}    over: \"[1, 2, 3]\"\n{pad}    parallel: "
                                + $"3\n{pad}    tolerate: 1\n"
                        );
                        Scope(text, depth + 2, $"{address}{id}/", chance.Next(1, 3));
                        break;
                    case 3:
                        text.Append($"{pad}    kind: repeat\n{pad}    until: round == 2\n{pad}    limit: 3\n");
                        Scope(text, depth + 2, $"{address}{id}/", chance.Next(1, 3));
                        break;
                    default:
                        text.Append($"{pad}    kind: count\n");
                        Counting.Add(address + id);
                        break;
                }
            }
            var gates = (
                from to in Enumerable.Range(1, size - 1)
                from @from in Enumerable.Range(0, to)
                where chance.Next(3) == 0
                select $"{pad}  - {{ from: {ids[@from]}, to: {ids[to]}, on: "
                    + $"{new[] { "success", "failure", "completion", "always", "skipped" }[chance.Next(5)]} }}\n"
            ).ToList();
            if (gates.Count > 0)
                text.Append($"{pad}gates:\n{string.Concat(gates)}");
        }
    }

    [Fact]
    public async Task GoesTheWayTheEngineGoes()
    {
        var first = int.TryParse(Environment.GetEnvironmentVariable("GATECHAIN_SEED"), out var given)
            ? given
            : 20261123;
        for (var seed = first; seed < first + 40; seed++)
        {
            var chance = new Random(seed);
            var maker = new Maker(chance);
            var yaml = maker.Make();
            var failing = maker
                .Counting.Where(_ => chance.Next(4) == 0)
                .Select(a => new RehearsedFailure(new(a)))
                .ToList();

            await using var house = new House();
            house.Count.Fails = path => failing.Exists(f => f.Step.Matches(path));
            var run = await house.RunAsync(yaml);
            await house.EndAsync(run);
            var real = await house
                .Store.Journal.ReadAsync(run)
                .SelectMany(row => Decision.FromBytes(row.Body).Events)
                .ToListAsync();

            var chain = await house.Engine.Reader.ReadAsync(run, (state, _) => state.Chain);
            var rehearsed = Rehearsal
                .Play(chain, new() { At = DateTimeOffset.UnixEpoch, Fail = failing }, _ => null)
                .Journal.SelectMany(d => d.Events)
                .ToList();
            Assert.True(
                Settled(real).SequenceEqual(Settled(rehearsed)),
                $"seed {seed}: {string.Join(", ", Settled(real))}\nand rehearsed\n"
                    + $"{string.Join(", ", Settled(rehearsed))}\n{yaml}"
            );
            Assert.True(Gates(real).SequenceEqual(Gates(rehearsed)), $"seed {seed}\n{yaml}");
            // Steps side by side end in any order; what waits for another is decided behind it in both.
            Assert.True(InOrder(real) && InOrder(rehearsed), $"seed {seed}\n{yaml}");

            // Every gate is decided right behind its source, and before its target settles.
            bool InOrder(List<RunEvent> events)
            {
                var place = events
                    .Select((e, i) => (e, i))
                    .Where(x => x.e is StepSettled)
                    .ToDictionary(x => ((StepSettled)x.e).Step, x => x.i);
                var scopes = chain.AllSteps.Select(s => s.Scope).Distinct().ToDictionary(s => s.Address);
                return events
                    .Select((e, i) => (Gate: e as GateDecided, At: i))
                    .Where(g => g.Gate is not null)
                    .All(g =>
                    {
                        var gate = scopes[new Core.Chains.StepPath(g.Gate!.Scope).Address.Text].Gates[g.Gate.Gate];
                        return place[new Core.Chains.StepPath(g.Gate.Scope).Then(gate.From.Id).Text] < g.At
                            && (
                                !place.TryGetValue(
                                    new Core.Chains.StepPath(g.Gate.Scope).Then(gate.To.Id).Text,
                                    out var target
                                )
                                || g.At < target
                                || chain.AllSteps.First(s => s == gate.To).Join.Mode == Core.Chains.JoinMode.Any
                            );
                    });
            }
        }
    }

    static IEnumerable<string> Settled(IEnumerable<RunEvent> events) =>
        events.OfType<StepSettled>().Select(s => $"{s.Step} {s.Outcome}").Order(StringComparer.Ordinal);

    static IEnumerable<string> Gates(IEnumerable<RunEvent> events) =>
        events.OfType<GateDecided>().Select(g => $"{g.Scope} {g.Gate} {g.Open}").Order(StringComparer.Ordinal);
}
