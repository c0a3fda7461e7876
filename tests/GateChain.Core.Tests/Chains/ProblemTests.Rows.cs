using System.Globalization;
using GateChain.Core.Chains;
using GateChain.Core.Checking;
using GateChain.Core.Problems;

namespace GateChain.Core.Tests.Chains;

public partial class ProblemTests
{
    // One row for each kind of problem at least; the table is the catalogue's test.
    public static TheoryData<string, string, string> Rows => [.. OtherRows, .. ShapeRows];

    static TheoryData<string, string, string> OtherRows =>
        new()
        {
            { "chain: t\nsteps: [", "2:9", "GC1001 this is not YAML" },
            { "", "1:1", "GC1001 the file is empty" },
            {
                "chain: t\nparams: { k: { type: string, secret: true } }\n"
                    + "steps: { a: { kind: work, set: { text: '${params.k}' } } }",
                "3:43",
                "GC1413 “k” is a secret: here it would only be the name of one"
            },
            { "chain: t\nsteps: { a: { kind: work } }\n---\nx: 1", "3:1", "GC1001 a second document" },
            { "chain: t\nsteps: { a: &x { kind: work } }", "2:13", "GC1002 an anchor" },
            {
                "chain: t\nsteps:\n  a: { kind: work }\n  a: { kind: work }",
                "4:3",
                "GC1003 “a” stands here a second time"
            },
            {
                "chain: t\nstpes: {}\nsteps: { a: { kind: work } }",
                "2:1",
                "GC1004 a chain file has no key “stpes” (did you mean “steps”?)"
            },
            {
                "chain: t\nsteps:\n  a: { kind: work, set: { giv: 1 } }",
                "3:27",
                "GC1004 a work step has no setting “giv” (did you mean “give”?)"
            },
            {
                "chain: t\nsteps:\n  a: { kind: work, give: 1 }",
                "3:20",
                "GC1004 step “a” has no key “give” (it is a setting of work, and settings stand under “set”)"
            },
            {
                "chain: t\nsteps:\n  a: { kind: assign, set: { timeout: 1s } }",
                "3:29",
                "GC1004 an assign step has no setting “timeout” (it stands at the step itself, beside “set”)"
            },
            {
                "chain: t\nsteps:\n  a: { kind: call, chain: u, set: { inputs: {} } }",
                "3:37",
                "GC1004 a call step has no setting “inputs” (it stands at the step itself, beside “set”)"
            },
            { "steps: { a: { kind: work } }", "1:1", "GC1005 a chain file needs “chain”" },
            { "chain: t\nsteps: { a: {} }", "2:13", "GC1005 step “a” needs “kind”" },
            { "- a", "1:1", "GC1006 a chain file is a mapping, and this is a list" },
            {
                "chain: t\nsteps:\n  a: { kind: work, timeout: soon }",
                "3:29",
                "GC1006 “timeout” is a duration such as"
            },
            {
                "chain: t\nsteps:\n  a: { kind: work, retry: { limit: -1 } }",
                "3:36",
                "GC1006 “limit” is a whole number from 0 to 1000"
            },
            { "chain: t\nsteps:\n  a-b: { kind: work }", "3:3", "GC1007 the name of a step begins" },
            { "chain: 5 t\nsteps: { a: { kind: work } }", "1:8", "GC1007 the name of a chain begins" },
            {
                "chain: t\nsteps:\n  a: { kind: call, chain: child, release: 0 }",
                "3:43",
                "GC1009 “release” is latest or the number of a release, from 1, and this is “0”"
            },
            {
                "chain: t\nsteps:\n  a: { kind: work, guard: { rules: [] } }",
                "3:27",
                "GC1005 the guard needs “otherwise”"
            },
            {
                "chain: t\nsteps:\n  a: { kind: work, guard: { rules: [ { verdict: skip } ], otherwise: "
                    + "{ verdict: proceed } } }",
                "3:38",
                "GC1005 a rule of the guard needs “when”"
            },
            {
                "chain: t\nsteps:\n  a: { kind: work, guard: { otherwise: {} } }",
                "3:40",
                "GC1005 “otherwise” needs “verdict”: proceed, skip, fail, stop or hold"
            },
            {
                "chain: t\nsteps:\n  a: { kind: work, guard: { otherwise: { verdict: hold, limit: 3 } } }",
                "3:40",
                "GC1005 a hold has either “recheck: 5m” or “at: \"06:00\"”"
            },
            {
                "chain: t\nsteps:\n  a: { kind: work, guard: { otherwise: { verdict: hold, recheck: 5m } } }",
                "3:40",
                "GC1005 a hold has a “limit”"
            },
            {
                "chain: t\nsteps:\n  a: { kind: work, guard: { otherwise: { verdict: hold, recheck: 5m, "
                    + "limit: often } } }",
                "3:77",
                "GC1006 “limit” is a number of looks such as 12, or a duration such as 2h"
            },
            {
                "chain: t\nsteps:\n  a: { kind: work, guard: { otherwise: { verdict: hold, at: noon, limit: 3 } } }",
                "3:61",
                "GC1006 “at” is a time of the day"
            },
            {
                "chain: t\nsteps:\n  a: { kind: work, guard: { otherwise: { verdict: hold, at: '06:00', "
                    + "zone: Mars/Base, limit: 3 } } }",
                "3:76",
                "GC1206 there is no time zone “Mars/Base”"
            },
            {
                "chain: t\nsteps:\n  a: { kind: work, guard: { otherwise: { verdict: hold, recheck: 5m, "
                    + "limit: 3, then: hold } } }",
                "3:86",
                "GC1009 “then” is one of fail, skip, proceed, stop, and this is “hold”"
            },
            {
                "chain: t\nsteps:\n  a: { kind: work, guard: { probes: { p: { kind: eey } }, otherwise: "
                    + "{ verdict: proceed } } }",
                "3:50",
                "GC1101 there is no probe “eey” (did you mean “eye”?)"
            },
            {
                "chain: t\nsteps:\n  a: { kind: work, guard: { rules: [ { when: probes.p.n > 1, verdict: "
                    + "skip } ], otherwise: { verdict: proceed } } }",
                "3:53",
                "GC1202 there is no “p” in probes"
            },
            {
                "chain: t\nsteps:\n  a: { kind: work, expect: [ { when: result.n > 1 } ] }",
                "3:30",
                "GC1005 an expect rule needs “verdict”"
            },
            {
                "chain: t\nsteps:\n  a: { kind: work, expect: [ { when: result.n, verdict: fail } ] }",
                "3:38",
                "GC1203 an expect rule is a bool, and this gives an int"
            },
            {
                "chain: t\nsteps:\n  a: { kind: repeat, until: 'true', steps: { b: { kind: work } } }",
                "3:6",
                "GC1005 step “a” needs “limit”: the most rounds"
            },
            {
                "chain: t\nsteps:\n  a: { kind: repeat, limit: 3, steps: { b: { kind: work } } }",
                "3:6",
                "GC1005 step “a” needs “until” or “while”"
            },
            {
                "chain: t\nsteps:\n  a: { kind: repeat, limit: 3, while: steps.b.n > 1, steps: { b: { kind: work } } }",
                "3:45",
                "GC1204 “b” cannot have run yet"
            },
            {
                "chain: t\nsteps:\n  a: { kind: group, lane: wide, steps: { b: { kind: work } } }",
                "3:27",
                "GC1006 a group step queues for no lane"
            },
            {
                "chain: t\nhandlers: { failed: { steps: { b: { kind: work } } } }\nsteps:\n  a: { kind: work }",
                "2:13",
                "GC1004 there is no handler for “failed”"
            },
            {
                "chain: t\nrecover: { attempts: 0 }\nsteps:\n  a: { kind: work }",
                "2:22",
                "GC1006 “attempts” is a whole number from 1 to 1000"
            },
            {
                "chain: t\nwhenBusy: wait\nsteps:\n  a: { kind: work }",
                "2:11",
                "GC1009 “whenBusy” is one of allow, queue, skip, replace"
            },
            {
                "chain: t\nsteps:\n  a: { kind: call, chain: chlid }",
                "3:27",
                "GC1403 there is no chain “chlid” in this workspace (did you mean “child”?)"
            },
            {
                "chain: t\nsteps:\n  a: { kind: call, chain: old }",
                "3:27",
                "GC1411 “old” is retired: the call fails (bring it back, or name another chain)"
            },
            {
                "chain: t\nsteps:\n  a: { kind: call, chain: elsewhere }",
                "3:27",
                "GC1412 “elsewhere” can't be called from here: a chain is called from its own folder and below, or "
                    + "from the folders that it names in “callable”"
            },
            {
                "chain: t\nsteps:\n  a: { kind: call, chain: child, release: 7 }",
                "3:43",
                "GC1403 “child” has no release 7"
            },
            {
                "chain: t\nsteps:\n  a: { kind: call, chain: child, release: 1, inputs: { n: 1, day: now } }",
                "3:62",
                "GC1501 “child” has no parameter “day”"
            },
            {
                "chain: t\nsteps:\n  a: { kind: call, chain: child, release: 1, inputs: { n: "
                    + "1 } }\noutputs: { x: steps.a.total }",
                "4:23",
                "GC1202 there is no “total” in steps.a"
            },
            {
                "chain: t\nsteps:\n  a: { kind: call, chain: back, release: 1 }",
                "3:27",
                "GC1502 “t” calls itself here again and again"
            },
            {
                "chain: t\nsteps:\n  a: { kind: work, lane: wdie }",
                "3:26",
                "GC1404 there is no lane “wdie” in lanes.yaml (did you mean “wide”?)"
            },
            {
                "chain: t\nsteps:\n  a: { kind: work, place: wharehouse }",
                "3:27",
                "GC1414 no node has the label “wharehouse”: steps with this place wait until one has (did you mean "
                    + "“warehouse”?)"
            },
            {
                "chain: t\nplace: ${steps.a.n}\nsteps:\n  a: { kind: work }\n  b: { kind: group, place: x, steps: "
                    + "{ c: { kind: work } } }",
                "5:28",
                "GC1006 a group step has no place"
            },
            {
                "chain: t\nplace: a\ndefaults: { place: b }\nsteps: { x: { kind: work } }",
                "3:20",
                "GC1003 the chain has a “place” beside this default: keep one of the two"
            },
            { "chain: t\nsteps:\n  a: { kind: work, place: '${parms.x}' }", "3:30", "GC1202 there is no “parms” here" },
            {
                "chain: t\nsteps:\n  a: { kind: call, chain: child }",
                "3:27",
                "GC1501 “child” needs “day” (timestamp), and the call does not give it"
            },
            {
                "chain: t\nsteps:\n  a: { kind: call, chain: child, inputs: { day: now, m: 1 } }",
                "3:54",
                "GC1501 “child” has no parameter “m”"
            },
            {
                "chain: t\nsteps:\n  a: { kind: call, chain: child, inputs: { day: now, n: \"'x'\" } }",
                "3:58",
                "GC1501 “n” of “child” is an int, and this gives a string"
            },
            {
                "chain: t\nsteps:\n  a: { kind: call, chain: child, inputs: { day: now } }\noutputs: "
                    + "{ x: steps.a.totl }",
                "4:23",
                "GC1202 there is no “totl” in steps.a (did you mean “total”?)"
            },
            {
                "chain: t\nsteps:\n  a: { kind: call, chain: back }",
                "3:27",
                "GC1502 “t” calls itself here again and again"
            },
            {
                "chain: t\nhandlers: { failure: { steps: { b: { kind: work, ifFails: "
                    + "pause } } } }\nsteps:\n  a: { kind: work }",
                "2:33",
                "GC1503 “b” stands in a handler, and handlers do not pause the run"
            },
            {
                "chain: t\nsteps:\n  a: { kind: work, expect: [ { when: result.n > 1, verdict: redo } ] }",
                "3:3",
                "GC1504 “a” asks for another attempt, and has none left"
            },
            {
                "chain: t\nsteps:\n  a: { kind: work, ifFails: absrob }",
                "3:29",
                "GC1009 “ifFails” is one of fail, absorb, pause, and this is “absrob” (did you mean “absorb”?)"
            },
            {
                "chain: t\nsteps:\n  a: { kind: work }\ngates:\n  - { from: a, to: a, on: sucess }",
                "5:27",
                "GC1009 “on” is one of"
            },
            { new string(' ', (4 << 20) + 1), "1:1", "GC1010 the file has more than 4 MiB" },
            {
                "chain: t\nsteps:\n  a: { kind: work, set: { text: '${1 +}' } }",
                "3:39",
                "GC1201 the expression ends too early"
            },
            {
                "chain: t\nvars: { n: { type: int } }\nsteps:\n  a: { kind: assign, assign: { vars.n: vras.n + 1 } }",
                "4:40",
                "GC1202 there is no “vras” here (did you mean “vars”?)"
            },
            {
                "chain: t\nsteps:\n  a: { kind: work }\n  b: { kind: work }\ngates:\n  - { from: a, to: "
                    + "b, when: 1 + 1 }",
                "6:29",
                "GC1203 a gate's condition is a bool, and this gives an int"
            },
            {
                "chain: t\nvars: { n: { type: int } }\nsteps:\n  a: { kind: assign, assign: { vars.n: \"'x'\" } }",
                "4:41",
                "GC1203 “n” is an int, and this gives a string"
            },
            {
                "chain: t\nsteps:\n  a: { kind: work, set: { text: '${steps.b.n}' } }\n  b: { kind: "
                    + "work }\ngates:\n  - { from: a, to: b }",
                "3:42",
                "GC1204 “b” cannot have run yet"
            },
            {
                "chain: t\nsteps:\n  a: { kind: assign, assign: { n: 1 } }\nvars: { n: { type: int } }",
                "3:32",
                "GC1205 “n” is not a variable (did you mean “vars.n”?)"
            },
            {
                "chain: t\nparams: { n: { type: int, default: many } }\nsteps: { a: { kind: work } }",
                "2:36",
                "GC1206 default of “n”: expected an int, and this is “many”"
            },
            {
                "chain: t\nparams: { n: { type: itn } }\nsteps: { a: { kind: work } }",
                "2:22",
                "GC1207 there is no type “itn” (did you mean “int”?)"
            },
            {
                "chain: t\nsteps:\n  a: { kind: work }\n  b: { kind: work, ifFails: absorb }",
                "3:3",
                "GC1301 other failures are handled, but nothing looks at a failure of a"
            },
            {
                "chain: t\nsteps:\n"
                    + string.Concat(Enumerable.Range(1, 11).Select(i => $"  s{i}: {{ kind: work }}\n"))
                    + "  b: { kind: work, ifFails: absorb }",
                "3:3",
                "GC1301 other failures are handled, but nothing looks at a failure of s1, s2, s3, s4, "
                    + "s5, s6, s7, s8 and 3 more"
            },
            {
                "chain: t\nsteps:\n  a: { kind: work, disabled: true }\n  b: { kind: "
                    + "work }\ngates:\n  - { from: a, to: b, on: failure }",
                "4:3",
                "GC1302 “b” can never run: the gate from “a” can't open"
            },
            {
                "chain: t\nsteps:\n  a: { kind: work }\n  b: { kind: work }\n  c: { kind: work }\n  d: "
                    + "{ kind: work }\ngates:\n  - { from: a, to: b }\n  - { from: a, to: c, on: "
                    + "failure }\n  - { from: b, to: d }\n  - { from: c, to: d }",
                "6:3",
                "GC1302 “d” can never run: of its gates, from “b” on success, from “c” on success, "
                    + "there are never all open together (use join: any or join: some)"
            },
            {
                "chain: t\nsteps:\n  a: { kind: stop }\n  b: { kind: work, join: any }\n  c: { kind: "
                    + "work }\ngates:\n  - { from: a, to: b }\n  - { from: c, to: b }",
                "7:5",
                "GC1303 the gate from “a” to “b” can never open: “a” stops the run"
            },
            {
                "chain: t\nsteps:\n  d: { kind: decide, branches: [ { name: x, otherwise: "
                    + "true } ] }\n  a: { kind: work }\ngates:\n  - { from: d, to: a, when: \"false\" }",
                "6:5",
                "GC1303 the gate from “d” to “a” can never open: its condition is false"
            },
            {
                Tangle(40),
                "3:3",
                "GC1304 these 81 steps can end in too many ways to search them all for what can never happen"
            },
            {
                "chain: t\nsteps:\n  a: { kind: work }\n  b: { kind: work, set: { text: "
                    + "'${steps.a.n}' } }\ngates:\n  - { from: a, to: b, on: completion }",
                "4:36",
                "GC1305 “a” need not have succeeded when this is computed, and then there is no “n” (ask "
                    + "with has(steps.a.n), or write steps.a.?n.orValue(…))"
            },
        };
}
