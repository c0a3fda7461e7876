using GateChain.Core.Chains;
using GateChain.Core.Checking.Outcomes;
using GateChain.Core.Rehearsing;
using GateChain.Core.Running.Events;

namespace GateChain.Core.Tests.Chains;

/// <summary>The search over outcomes against the run machine itself, which is made to go through all of them.</summary>
public class OutcomeSearchTests
{
    [Fact]
    public void FindsJustWhatTheMachineCanDo()
    {
        for (var seed = 0; seed < 150; seed++)
        {
            var yaml = Make(new Random(seed));
            var chain = Play.Read(yaml);
            var search = OutcomeSearch.Of(chain.Root)!;
            var (ran, opened) = EverythingThatHappens(chain);
            foreach (var step in chain.Root.Steps)
                Assert.True(search.CanRun(step) == ran.Contains(step.Id), $"seed {seed}: {step.Id}\n{yaml}");
            foreach (var gate in chain.Root.Gates)
            {
                Assert.True(
                    search.CanOpen(gate) == opened.Contains(gate.Index),
                    $"seed {seed}: {gate.From.Id} to {gate.To.Id}\n{yaml}"
                );
            }
        }
    }

    // Every set of failing steps is played.
    static (HashSet<string> Ran, HashSet<int> Opened) EverythingThatHappens(Chain chain)
    {
        var (ran, opened) = (new HashSet<string>(), new HashSet<int>());
        var working = chain.Root.Steps.Where(s => !s.Kind.IsControl).Select(s => s.Id).ToList();
        for (var set = 0; set < 1 << working.Count; set++)
        {
            var failing = working
                .Where((_, i) => (set >> i & 1) == 1)
                .Select(id => new RehearsedFailure(new(id)))
                .ToList();
            foreach (
                var e in Rehearsal
                    .Play(chain, new() { At = Play.Start0, Fail = failing }, _ => null)
                    .Journal.SelectMany(d => d.Events)
            )
            {
                switch (e)
                {
                    case AttemptStarted started:
                        ran.Add(started.Step);
                        break;
                    case StepSettled { Note: { } note } settled
                        when note.StartsWith("disabled", StringComparison.Ordinal):
                        ran.Add(settled.Step);
                        break;
                    case GateDecided { Open: true } gate:
                        opened.Add(gate.Gate);
                        break;
                    default:
                        break;
                }
            }
        }
        return (ran, opened);
    }

    static string Make(Random chance)
    {
        var size = chance.Next(3, 9);
        var steps = Enumerable
            .Range(0, size)
            .Select(i =>
                $"  s{i}: {{ kind: work, join: {Pick(chance, "all", "all", "any", "some", "2")}"
                + $"{(chance.Next(8) == 0 ? ", disabled: true" : "")} }}\n"
            );
        var gates =
            from to in Enumerable.Range(1, size - 1)
            from @from in Enumerable.Range(0, to)
            where chance.Next(3) == 0
            select $"  - {{ from: s{@from}, to: s{to}, on: "
                + $"{Pick(chance, "success", "success", "failure", "completion", "skipped", "always")} }}\n";
        var lines = gates.ToList();
        // A join that wants more gates than there are is an error of its own.
        var yaml = $"chain: t\nsteps:\n{string.Concat(steps)}gates:\n{string.Concat(lines)}";
        for (var i = 0; i < size; i++)
        {
            var incoming = lines.Where(l => l.Contains($"to: s{i},", StringComparison.Ordinal)).ToList();
            if (incoming.Count < 2)
            {
                yaml = yaml.Replace(
                    $"s{i}: {{ kind: work, join: 2",
                    $"s{i}: {{ kind: work, join: all",
                    StringComparison.Ordinal
                );
            }
        }
        return lines.Count == 0 ? yaml.Replace("gates:\n", "", StringComparison.Ordinal) : yaml;
    }

    static string Pick(Random chance, params string[] words) => words[chance.Next(words.Length)];
}
