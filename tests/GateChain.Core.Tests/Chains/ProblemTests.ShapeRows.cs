namespace GateChain.Core.Tests.Chains;

// Rows of the table in ProblemTests.Rows.cs about steps, gates and joins.
public partial class ProblemTests
{
    static TheoryData<string, string, string> ShapeRows =>
        new()
        {
            {
                "chain: t\nsteps:\n  a: { kind: wrok }",
                "3:14",
                "GC1101 there is no kind “wrok” (did you mean “work”?)"
            },
            {
                "chain: t\nsteps:\n  load: { kind: work }\ngates:\n  - { from: load, to: laod }",
                "5:23",
                "GC1102 a gate leads to “laod”, and there is no such step in this scope (did you mean “load”?)"
            },
            {
                "chain: t\nsteps:\n  a: { kind: work }\n  b: { kind: work }\n  c: { kind: "
                    + "work }\ngates:\n  - { from: a, to: b }\n  - { from: b, to: c }\n  - { from: c, to: a }",
                "9:5",
                "GC1103 these steps wait for each other: a → b → c → a"
            },
            {
                "chain: t\nsteps:\n  d: { kind: decide, branches: [ { name: x, otherwise: "
                    + "true } ] }\n  a: { kind: work }\ngates:\n  - { from: d, to: a, branch: y }",
                "6:31",
                "GC1104 “d” has no branch “y”"
            },
            {
                "chain: t\nsteps:\n  a: { kind: work }\n  b: { kind: work, join: 2 }\ngates:\n  - { from: a, to: b }",
                "4:3",
                "GC1105 “b” waits for 2 open gates, and only 1 lead to it"
            },
            {
                "chain: t\nsteps:\n  a: { kind: work }\n  b: { kind: work }\ngates:\n  - { from: a, to: "
                    + "b }\n  - { from: a, to: b, on: failure }",
                "4:3",
                "GC1105 “b” waits for all gates, and those from “a” can never all open (use join: any or join: some)"
            },
            {
                "chain: t\nsteps:\n  a:\n    kind: group\n    steps:\n      a: { kind: work }",
                "6:7",
                "GC1106 a step around this one is already called “a”"
            },
            { "chain: t\nsteps: {}", "2:1", "GC1107 a chain file has no steps" },
            {
                "chain: t\nsteps:\n  d: { kind: decide, branches: [ { name: x } ] }",
                "3:42",
                "GC1108 the branch “x” needs either “when” or “otherwise: true”"
            },
            {
                "chain: t\nsteps: { a: { kind: work }, b: { kind: work } }\n"
                    + "gates: [ { from: a, to: b, when: 1 > 2, else: true } ]",
                "3:28",
                "GC1109 an else gate has no “when”"
            },
            {
                "chain: t\nsteps: { a: { kind: work }, b: { kind: work } }\ngates: [ { from: a, to: b, else: true } ]",
                "3:10",
                "GC1110 the else gate from “a” to “b” opens whenever its outcome fits"
            },
        };
}
