using GateChain.Core.Chains;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Chains.Reading;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;

namespace GateChain.Core.Triggers.Reading;

/// <summary>Reads what a trigger waits for, schedules left out.</summary>
sealed class SourceReader(KindCatalogue kinds, Func<string, string?> attachment, ProblemList problems)
{
    static readonly TimeSpan Second = TimeSpan.FromSeconds(1);

    static readonly TimeSpan Day = TimeSpan.FromDays(1);

    public ArrivalSource? Arrival(MapReader map)
    {
        var path = map.RequiredScalar("path");
        if (path is { Text: "" })
            problems.Add(ProblemKinds.WrongValue, path.Span, $"“path” names a file, or a pattern with * and ?");
        var connection = map.Scalar("connection");
        var every = Span(map, "every", TimeSpan.FromSeconds(30), Second, Day);
        if (map.Take("every") is not null && connection is null)
        {
            problems.Add(
                ProblemKinds.WrongValue,
                map.KeySpan("every"),
                $"“every” is for connections: folders of this machine are watched"
            );
        }
        var ready = map.Scalar("ready");
        if (ready is not null && !ready.Text.Contains("{name}", StringComparison.Ordinal))
        {
            problems.Add(
                ProblemKinds.WrongValue,
                ready.Span,
                $"“ready” names the file that says that another one is complete, with {{name}} in it",
                "for example \"{name}.done\""
            );
        }
        var quiet = Span(map, "quiet", TimeSpan.FromSeconds(2), TimeSpan.Zero, Day);
        var together = map.Take("together") is null
            ? (TimeSpan?)null
            : Span(map, "together", Second, TimeSpan.FromMilliseconds(100), Day);
        var existing = map.Choice("existing", false, ("leave", false), ("take", true));
        map.End();
        return path is null ? null : new(path.Text, connection?.Text, every, quiet, ready?.Text, together, existing);
    }

    public HookSource? Hook(MapReader map)
    {
        var path = map.RequiredScalar("path");
        if (path is not null && !IsHookPath(path.Text))
        {
            problems.Add(
                ProblemKinds.WrongValue,
                path.Span,
                $"“path” is what comes after /hooks/: letters, digits, - and _, with / between parts; "
                    + $"this is “{path.Text}”"
            );
        }
        var token = Secrets(map, "token");
        var sign = Secrets(map, "sign");
        var open = map.Flag("open");
        var accepts = map.Scalar("accepts");
        if (accepts is not null && attachment(accepts.Text) is null)
        {
            problems.Add(
                ProblemKinds.MissingAttachment,
                accepts.Span,
                $"there is no file “{accepts.Text}”",
                "put it beside triggers.yaml"
            );
        }
        var wait = map.Take("wait") is null
            ? (TimeSpan?)null
            : Span(map, "wait", Second, Second, TimeSpan.FromMinutes(5));
        if (map.Take("token") is null && map.Take("sign") is null && !open)
        {
            problems.Add(
                ProblemKinds.OpenHook,
                map.KeySpan("path"),
                $"anybody could call this hook",
                "add token: secret:NAME or sign: secret:NAME; open: true says that anybody may"
            );
        }
        if (open && token.Count + sign.Count > 0)
        {
            problems.Add(
                ProblemKinds.WrongValue,
                map.KeySpan("open"),
                $"a hook is open, or it has a token or a signature; not both"
            );
        }
        // What is signed has an id.
        if (map.Take("sign") is null)
        {
            problems.Add(
                ProblemKinds.HookWithoutId,
                map.KeySpan("path"),
                $"a call without an id is a fire of its own: when its caller repeats it, there are two runs",
                "callers send webhook-id or Idempotency-Key, or CloudEvents; sign asks for it"
            );
        }
        map.End();
        return path is null ? null : new(path.Text, token, sign, open, accepts?.Text, wait);
    }

    // Two while one is changed.
    List<string> Secrets(MapReader map, string key)
    {
        var found = new List<string>();
        foreach (var scalar in map.OneOrMore(key))
        {
            if (SecretNames.In(scalar.Text) is { } secret)
            {
                found.Add(secret);
            }
            else
            {
                problems.Add(
                    ProblemKinds.WrongValue,
                    scalar.Span,
                    $"“{key}” names a secret: secret:NAME",
                    "set its value with gatechain secret set"
                );
            }
        }
        if (found.Count > 2)
            problems.Add(ProblemKinds.WrongValue, map.KeySpan(key), $"“{key}” has two secrets at most");
        return found;
    }

    static bool IsHookPath(string path) =>
        path.Length is > 0 and <= 200
        && path.Split('/').All(p => p.Length > 0 && p.All(c => char.IsAsciiLetterOrDigit(c) || c is '-' or '_'));

    public WatchSource? Watch(MapReader map)
    {
        var probes = new GuardReader(kinds, problems).ReadProbes(map);
        if (probes.Count == 0)
        {
            problems.Add(
                ProblemKinds.MissingKey,
                new(map.Map.Span.Start, map.Map.Span.Start),
                $"a watch has “probes”: what is looked at",
                "for example probes: { bad: { kind: query, connection: warehouse, query: \"…\" } }"
            );
        }
        if (map.Take("when") is null)
        {
            problems.Add(
                ProblemKinds.MissingKey,
                new(map.Map.Span.Start, map.Map.Span.Start),
                $"a watch needs “when”: what must hold",
                "for example when: probes.bad.value > 1000"
            );
        }
        var when = map.Expression("when");
        var every = Span(map, "every", TimeSpan.FromMinutes(1), Second, Day);
        var again = map.Choice(
            "again",
            WatchAgain.Change,
            ("change", WatchAgain.Change),
            ("once", WatchAgain.Once),
            ("always", WatchAgain.Always)
        );
        map.End();
        return when is null || probes.Count == 0 ? null : new(probes, when, every, again);
    }

    public OutcomeSource? Outcome(MapReader map)
    {
        var chains = map.OneOrMore("chains");
        if (map.Take("chains") is null)
        {
            problems.Add(
                ProblemKinds.MissingKey,
                new(map.Map.Span.Start, map.Map.Span.Start),
                $"an outcome needs “chains”: names or patterns",
                "for example chains: [\"*\", \"!tell-office\"]"
            );
        }
        var words = map.OneOrMore("is");
        if (map.Take("is") is null)
        {
            problems.Add(
                ProblemKinds.MissingKey,
                new(map.Map.Span.Start, map.Map.Span.Start),
                $"an outcome needs “is”: {string.Join(", ", OutcomeSource.Words)}"
            );
        }
        foreach (var word in words.Where(w => !OutcomeSource.Words.Contains(w.Text)))
        {
            problems.Add(
                ProblemKinds.UnknownChoice,
                word.Span,
                $"“is” holds {string.Join(", ", OutcomeSource.Words)}, and this is “{word.Text}”",
                Nearest.Fix(word.Text, OutcomeSource.Words)
            );
        }
        var children = map.Flag("children");
        var tries = map.Flag("tries");
        map.End();
        return chains.Count == 0 || words.Count == 0
            ? null
            : new([.. chains.Select(c => c.Text)], [.. words.Select(w => w.Text)], children, tries);
    }

    TimeSpan Span(MapReader map, string key, TimeSpan absent, TimeSpan least, TimeSpan most)
    {
        if (map.Duration(key) is not { } span)
            return absent;
        if (span >= least && span <= most)
            return span;
        problems.Add(
            ProblemKinds.WrongValue,
            map.KeySpan(key),
            $"“{key}” is from {Values.TimeText.Setting(least)} to {Values.TimeText.Setting(most)}"
        );
        return absent;
    }
}
