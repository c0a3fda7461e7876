using System.Globalization;
using System.Text;
using GateChain.Core.Chains;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Running;

/// <summary>Writes chains that use every feature of the machine.</summary>
sealed class ChainMaker(Random chance)
{
    readonly StringBuilder _text = new();
    int _next;
    bool _inHandler;

    public string Make()
    {
        _text.Append("chain: t\nvars: { n: { type: int, initial: 0 } }\n");
        if (chance.Next(5) == 0)
            Line(0, "onFailure: halt");
        if (chance.Next(6) == 0)
            Line(0, "dueIn: 4s");
        if (chance.Next(6) == 0)
            Line(0, "recover: { attempts: 2, wait: 1m }");
        Scope(0, chance.Next(2, 9));
        var occasions = Enum.GetNames<Occasion>().Where(_ => chance.Next(4) == 0).ToList();
        if (occasions.Count > 0)
            Line(0, "handlers:");
        _inHandler = true;
        foreach (var occasion in occasions)
        {
            Line(1, occasion.ToLowerInvariant() + ":");
            Scope(2, chance.Next(1, 3));
        }
        return _text.ToString();
    }

    void Line(int depth, string text) => _text.Append(' ', depth * 2).Append(text).Append('\n');

    string Pick(params string[] words) => words[chance.Next(words.Length)];

    void Scope(int depth, int size)
    {
        var ids = Enumerable
            .Range(0, size)
            .Select(_ => string.Create(CultureInfo.InvariantCulture, $"s{_next++}"))
            .ToList();
        Line(depth, "steps:");
        foreach (var id in ids)
            Step(depth + 1, id);
        Line(depth, "gates:");
        var any = false;
        for (var to = 1; to < ids.Count; to++)
        {
            foreach (var from in Enumerable.Range(0, to).Where(_ => chance.Next(3) == 0))
            {
                any = true;
                var when =
                    chance.Next(5) == 0
                        ? $", when: {Pick("vars.n > 2", "vars.n % 2 == 0", "10 / (vars.n - 3) > 0")}"
                        : "";
                var match = when.Length > 0 && chance.Next(2) == 0 ? ", match: either" : "";
                if (when.Length == 0 && chance.Next(6) == 0)
                    match = ", else: true";
                Line(
                    depth + 1,
                    $"- {{ from: {ids[from]}, to: {ids[to]}, on: "
                        + Pick("success", "success", "failure", "completion", "skipped", "always", "[failure, skipped]")
                        + $"{when}{match} }}"
                );
            }
        }
        if (!any)
            _text.Length -= (depth * 2) + "gates:\n".Length;
    }

    void Step(int depth, string id)
    {
        Line(depth, $"{id}:");
        depth++;
        if (chance.Next(4) == 0)
            Line(depth, $"join: {Pick("any", "some")}");
        if (chance.Next(4) == 0)
            Line(depth, "ifFails: absorb");
        else if (chance.Next(8) == 0 && !_inHandler)
            Line(depth, "ifFails: pause");
        if (chance.Next(6) == 0)
            Guard(depth);
        if (chance.Next(8) == 0)
            Line(depth, "onResume: redo");
        if (chance.Next(5) == 0)
            Line(depth, $"retry: {{ limit: {chance.Next(1, 3)}, wait: {Pick("0s", "5s")} }}");
        if (chance.Next(12) == 0)
            Line(depth, "disabled: true");
        if (chance.Next(8) == 0)
            Line(depth, $"onCrash: {(_inHandler ? "fail" : Pick("fail", "pause"))}");
        var kind = depth > 5 ? 0 : chance.Next(12);
        switch (kind)
        {
            case 6:
                Line(depth, "kind: group");
                if (chance.Next(3) == 0)
                    Line(depth, "resumeAs: whole");
                Scope(depth, chance.Next(1, 4));
                break;
            case 7:
                Line(
                    depth,
                    $"kind: each\n{new string(' ', depth * 2)}over: \""
                        + $"{Pick("[1, 2, 3]", "[]", "[1]", "[1, 2, 3, 4, 5]")}\""
                );
                Line(depth, $"parallel: {chance.Next(1, 4)}");
                if (chance.Next(2) == 0)
                    Line(depth, $"tolerate: {Pick("1", "50%")}");
                Line(depth, "collect: index");
                Scope(depth, chance.Next(1, 4));
                break;
            case 9:
                Line(depth, $"kind: repeat\n{new string(' ', depth * 2)}limit: {chance.Next(1, 5)}");
                Line(
                    depth,
                    Pick(
                        "until: round >= 2",
                        "until: vars.n > 5",
                        "while: round < 4",
                        "while: vars.n < 3",
                        "until: 10 / (vars.n - 3) > 0"
                    )
                );
                if (chance.Next(2) == 0)
                    Line(depth, "pause: 2s");
                if (chance.Next(2) == 0)
                    Line(depth, "atLimit: accept");
                Scope(depth, chance.Next(1, 4));
                break;
            case 10:
                Line(depth, $"kind: call\n{new string(' ', depth * 2)}chain: other");
                Line(depth, "inputs: { n: vars.n }");
                if (chance.Next(4) == 0)
                    Line(depth, "wait: false");
                if (chance.Next(4) == 0)
                    Line(depth, "timeout: 1h");
                break;
            case 11:
                Line(depth, $"kind: wait\n{new string(' ', depth * 2)}set: {{ runs: [7, 8] }}");
                break;
            case 8:
                Line(depth, $"kind: wait\n{new string(' ', depth * 2)}set: {{ for: {Pick("0s", "3s")} }}");
                break;
            case 5:
                Line(depth, "kind: assign\n" + new string(' ', depth * 2) + "assign: { vars.n: vars.n + 1 }");
                break;
            default:
                Line(depth, "kind: work");
                if (chance.Next(3) == 0)
                    Line(depth, "assign: { vars.n: vars.n + result.n }");
                if (chance.Next(6) == 0)
                    Line(depth, "timeout: 1h");
                if (chance.Next(6) == 0)
                    Line(depth, "lane: narrow");
                if (chance.Next(6) == 0)
                {
                    Line(
                        depth,
                        $"expect: [ {{ when: result.n == {chance.Next(4)}, verdict: "
                            + $"{Pick("redo", "fail", "warn", "accept")} }}, {{ when: result.n > 2, "
                            + $"verdict: warn }} ]"
                    );
                }
                break;
        }
    }

    void Guard(int depth)
    {
        Line(depth, "guard:");
        var eye = chance.Next(3) > 0;
        if (eye)
            Line(depth + 1, "probes: { p: { kind: eye } }");
        var rule = eye ? "probes.p.n" : "vars.n";
        if (chance.Next(2) == 0)
        {
            Line(
                depth + 1,
                $"rules: [ {{ when: {rule} == 3, verdict: {Pick("skip", "fail", "proceed", "stop")} "
                    + $"}}, {{ when: {rule} == 2, verdict: hold, recheck: 3s, limit: 2 }} ]"
            );
        }
        Line(
            depth + 1,
            $"otherwise: {{ "
                + Pick(
                    "verdict: proceed",
                    "verdict: proceed",
                    $"verdict: hold, recheck: 5s, limit: {Pick("2", "12s")}, "
                        + $"then: {Pick("proceed", "skip", "fail")}",
                    "verdict: hold, at: '05:00', limit: 1, then: proceed"
                )
                + $" }}"
        );
    }
}
