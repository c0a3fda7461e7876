using GateChain.Core.Chains;
using GateChain.Core.Problems;
using GateChain.Core.Testing;
using GateChain.Core.Testing.Reading;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Testing;

/// <summary>What is expected and comes passes; whatever else comes is told with its place.</summary>
public class ChainTestsTests
{
    const string Main = """
        chain: main
        params: { day: { type: string }, most: { type: int, default: 3 } }
        vars: { n: { type: int, initial: 0, keep: true } }
        steps:
          ask: { kind: work, set: { text: "of ${params.day}" }, retry: { limit: 2, wait: 1m, when: "error.code == 'away'" } }
          many:
            kind: each
            over: "[1, 2]"
            steps:
              one: { kind: work }
              two: { kind: work }
            gates: [ { from: one, to: two } ]
          held:
            kind: work
            guard:
              probes: { look: { kind: eye } }
              rules: [ { when: probes.look.n > 0, verdict: proceed } ]
              otherwise: { verdict: skip }
          way: { kind: decide, branches: [ { name: much, when: "steps.ask.n > params.most" }, { name: little, otherwise: true } ] }
          call: { kind: call, chain: below, inputs: { n: steps.ask.n } }
          add: { kind: assign, assign: { vars.n: vars.n + steps.ask.n } }
          tell: { kind: work, ifFails: absorb }
        gates:
          - { from: ask, to: many }
          - { from: ask, to: way }
          - { from: way, to: call, branch: much }
          - { from: way, to: add, branch: little }
          - { from: ask, to: tell, on: failure }
        outputs: { n: vars.n, twice: "has(steps.call.twice) ? steps.call.twice : 0" }
        """;

    const string Below = """
        chain: below
        params: { n: { type: int } }
        steps: { inner: { kind: work, set: { text: "${params.n}" } } }
        outputs: { twice: params.n * 2 }
        """;

    static readonly Dictionary<string, Chain> Chains = new() { ["main"] = Read(Main), ["below"] = Read(Below) };

    // Without a check: the kinds of these tests are enough for reading.
    static Chain Read(string text) => ChainReader.Read(text, Play.Kinds, new("t.chain.yaml", text))!;

    static (IReadOnlyList<string> Said, Coverage Coverage) Of(string body, bool withCase = true)
    {
        var text = withCase ? $"tests: main\ncases:\n  c:\n    params: {{ day: mon }}\n{body}\n" : body;
        var problems = new ProblemList("t.test.yaml", text);
        var tests = TestsFile.Read(
            text,
            problems,
            called => Chains.GetValueOrDefault(called.Name),
            Chains.Keys,
            _ => ["dev"]
        );
        if (problems.HasErrors)
            return ([.. problems.Ordered.Select(p => p.ToString())], new(Chains["main"]));
        var run = new CaseRun(
            tests!.Chain,
            called => Chains.GetValueOrDefault(called.Name),
            _ => Value.EmptyMap,
            _ => null
        );
        var coverage = new Coverage(tests.Chain);
        var said = new List<string>();
        foreach (var result in tests.Cases.Select(c => run.Play(c)))
        {
            coverage.Add(result.Rehearsal);
            said.AddRange(result.Differences.Select(d => $"{problems.Position(d.Span.Start).Line}: {d.Message}"));
        }
        return (said, coverage);
    }

    /// <summary>What comes, with all that can be said of it; then the same with one thing said wrongly.</summary>
    [Theory]
    [InlineData(
        "steps: { ask: { gives: { n: 1 } }, held: { probes: { look: { n: 1 } } } }\n    expect: { outcome: succeeded }",
        null
    )]
    [InlineData(
        "steps: { ask: { gives: { n: 1 } }, held: { probes: { look: { n: 1 } } } }\n    expect: { outcome: failed }",
        "6: the run is expected failed, and it is succeeded"
    )]
    [InlineData("steps: { ask: { fails: gone } }\n    expect: { outcome: failed, error: by the test }", null)]
    [InlineData(
        "steps: { ask: { fails: gone } }\n    expect: { error: the moon }",
        "6: the run's error is expected to have “the moon” in it, and it is “"
    )]
    [InlineData("steps: { ask: { fails: gone } }\n    expect: { steps: { tell: succeeded, many: skipped } }", null)]
    [InlineData("expect: { steps: { tell: skipped, many/two: succeeded, \"many[7]/two\": not reached } }", null)]
    [InlineData("expect: { steps: { tell: failed } }", "5: “tell” is expected failed, and it is skipped")]
    [InlineData(
        "expect: { steps: { \"many[7]/two\": failed } }",
        "5: “many[7]/two” is expected failed, and the run never comes to it"
    )]
    [InlineData(
        "steps: { ask: { attempts: [ { fails: away }, { gives: { n: 1 } } ] } }\n    expect: { attempts: { ask: 2 } }",
        null
    )]
    [InlineData("steps: { ask: { fails: away } }\n    expect: { attempts: { ask: 3 } }", null)]
    [InlineData(
        "steps: { ask: { fails: other } }\n    expect: { attempts: { ask: 3 } }",
        "6: “ask” is expected to take 3 attempts, and took 1"
    )]
    [InlineData("steps: { ask: { gives: { n: 2 } } }\n    expect: { outputs: { n: 2 }, vars: { n: 2 } }", null)]
    [InlineData("vars: { n: 40 }\n    steps: { ask: { gives: { n: 2 } } }\n    expect: { outputs: { n: 42 } }", null)]
    [InlineData(
        "steps: { ask: { gives: { n: 2 } } }\n    expect: { outputs: { n: 3 } }",
        "6: the output “n” is expected 3, and it is 2"
    )]
    [InlineData(
        "steps: { ask: { gives: { n: 9 } } }\n    expect: { outputs: { twice: 18 }, steps: { call/inner: succeeded } }",
        null
    )]
    [InlineData(
        "steps: { ask: { gives: { n: 9 } }, call: { plays: false, gives: { twice: 5 } } }\n"
            + "    expect: { outputs: { twice: 5 } }",
        null
    )]
    [InlineData(
        "steps: { ask: { gives: { n: 9 } }, call: { plays: false, fails: down } }\n    expect: { outcome: failed }",
        null
    )]
    [InlineData(
        "steps: { ask: { gives: { n: 9 } }, call/inner: { fails: down } }\n"
            + "    expect: { outcome: failed, steps: { call: failed } }",
        null
    )]
    [InlineData("steps: { held: { probes: { look: { n: 1 } } } }\n    expect: { steps: { held: succeeded } }", null)]
    [InlineData("steps: { held: { probes: { look: { n: 0 } } } }\n    expect: { steps: { held: skipped } }", null)]
    [InlineData(
        "steps: { ask: { gives: { n: 9 } } }\n"
            + "    expect: { gates: [ { from: way, to: call }, { from: way, to: add, is: shut } ] }",
        null
    )]
    [InlineData(
        "steps: { ask: { gives: { n: 1 } } }\n    expect: { gates: [ { from: way, to: call, branch: much } ] }",
        "6: the gate from “way” to “call” is expected open, and it is shut"
    )]
    [InlineData(
        "steps: { \"many[1]/one\": { fails: x } }\n"
            + "    expect: { gates: [ { from: one, to: two, in: \"many[0]\" }, "
            + "{ from: one, to: two, in: \"many[1]\", is: shut } ] }",
        null
    )]
    [InlineData("steps: { ask: { gives: { n: 1 } } }\n    expect: { order: [ask, way, many] }", null)]
    [InlineData("expect: { order: [many, ask] }", "5: “ask” is expected to settle after “many”, and settles before it")]
    [InlineData("expect: { settings: { ask: { text: of mon } }, says: { ask: { text: mon } } }", null)]
    [InlineData(
        "expect: { settings: { ask: { text: of tue } } }",
        "5: “text” of “ask” is expected \"of tue\", and it is \"of mon\""
    )]
    [InlineData("expect: { says: { tell: { text: x } } }", "5: “tell” is never begun, so it has no “text”")]
    [InlineData(
        "steps: { ask: { gives: { n: 2 } } }\n    expect: { holds: [vars.n == 2, \"steps.tell.state == 'skipped'\"] }",
        null
    )]
    [InlineData(
        "steps: { ask: { gives: { n: 2 } } }\n    expect: { holds: vars.n == 3 }",
        "6: vars.n == 3 is expected to be true, and it is false"
    )]
    [InlineData("expect: { holds: vars.m }", "5: vars.m is expected to be true, and it can't be computed: ")]
    // A file that does not fit is no test.
    [InlineData(
        "expect: { steps: { tel: failed } }",
        "t.test.yaml:5:24: error GC1801: there is no step “tel” (did you mean “tell”?)"
    )]
    [InlineData("expect: { outcome: broken }", "t.test.yaml:5:24: error GC1009: ")]
    [InlineData("steps: { ask: { gives: { m: 1 } } }\n    expect: {}", null)]
    [InlineData("steps: { ask: { fail: 1 } }\n    expect: {}", "t.test.yaml:5:21: error GC1004: ")]
    [InlineData(
        "steps: { add: { gives: { n: 1 } } }\n    expect: {}",
        "t.test.yaml:5:14: error GC1801: “add” is a step of kind assign"
    )]
    [InlineData(
        "steps: { held: { probes: { lok: { n: 1 } } } }\n    expect: {}",
        "t.test.yaml:5:32: error GC1801: the guard of “held” has no probe “lok”"
    )]
    [InlineData(
        "expect: { gates: [ { from: ask, to: held } ] }",
        "t.test.yaml:5:32: error GC1801: no gate leads from “ask” to “held”"
    )]
    [InlineData(
        "expect: { gates: [ { from: one, to: two, in: \"most[1]\" } ] }",
        "t.test.yaml:5:50: error GC1801: nothing holds steps at “most[1]”"
    )]
    [InlineData("expect: { outputs: { m: 1 } }", "t.test.yaml:5:26: error GC1801: “main” has no output “m”")]
    [InlineData("profile: prod\n    expect: {}", "t.test.yaml:5:14: error GC1801: there is no profile “prod”")]
    [InlineData("vars: { n: much }\n    expect: {}", "t.test.yaml:5:16: error GC1006: “n”: ")]
    [InlineData("vars: { n: 1 }", "t.test.yaml:3:3: error GC1005: the case “c” needs “expect”")]
    public void WhatIsExpectedIsCompared(string body, string? said)
    {
        var found = Of("    " + body).Said;
        if (said is null)
            Assert.Empty(found);
        else
            Assert.StartsWith(said, found.FirstOrDefault() ?? "nothing", StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("tests: min\ncases: {}", "1:8: error GC1801: there is no chain “min” (did you mean “main”?)")]
    [InlineData("cases: {}", "1:1: error GC1005: a file of tests needs “tests”")]
    [InlineData("tests: main\nfloor: 120", "2:8: error GC1006: ")]
    [InlineData("tests: main\ncases:\n  c: { expect: {} }", "3:3: error GC1005: the case “c” gives no parameter “day”")]
    [InlineData("tests: [", "1:")]
    [InlineData("- a", "1:1: error GC1006: a file of tests is a mapping")]
    public void AFileThatDoesNotFitIsTold(string text, string said) =>
        Assert.StartsWith($"t.test.yaml:{said}", Of(text, withCase: false).Said[0], StringComparison.Ordinal);

    [Fact]
    public void WaysAreGatesThatWereOpenAndShut()
    {
        var (_, coverage) = Of("    steps: { ask: { gives: { n: 9 } } }\n    expect: {}");
        Assert.Equal(
            "ask→many open; ask→way open; way→call open; way→add shut; ask→tell shut; one→two open",
            string.Join(
                "; ",
                coverage
                    .Gates.Where(g => g.Gone > 0)
                    .Select(g => $"{g.Gate.From.Id}→{g.Gate.To.Id} {(g.Opened ? "open" : "shut")}")
            )
        );
        Assert.Equal((6, 12, 50.0), (coverage.Counts.Gone, coverage.Counts.Ways, coverage.Percent));
    }
}
