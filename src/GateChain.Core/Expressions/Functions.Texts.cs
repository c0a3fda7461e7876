using System.Collections.Concurrent;
using System.Text.RegularExpressions;
using GateChain.Core.Values;

namespace GateChain.Core.Expressions;

public static partial class Functions
{
    static readonly ConcurrentDictionary<string, Regex?> Patterns = new();

    static void AddTexts()
    {
        foreach (
            var (type, size) in new (string, Func<Value, long>)[]
            {
                ("string", v => CodePoints(v.AsString)),
                ("bytes", v => v.AsBytes.Length),
                ("list<A>", v => v.AsList.Count),
                ("map<A, B>", v => v.AsMap.Count),
            }
        )
        {
            Add($"size({type}) -> int", a => Value.Int(size(a[0])));
            Add($"{type}.size() -> int", a => Value.Int(size(a[0])));
        }
        Add("string.contains(string) -> bool", a =>
            Value.Bool(a[0].AsString.Contains(a[1].AsString, StringComparison.Ordinal))
        );
        Add("string.startsWith(string) -> bool", a =>
            Value.Bool(a[0].AsString.StartsWith(a[1].AsString, StringComparison.Ordinal))
        );
        Add("string.endsWith(string) -> bool", a =>
            Value.Bool(a[0].AsString.EndsWith(a[1].AsString, StringComparison.Ordinal))
        );
        Add("string.matches(string) -> bool", a => Matches(a[0].AsString, a[1].AsString));
        Add("matches(string, string) -> bool", a => Matches(a[0].AsString, a[1].AsString));
    }

    static long CodePoints(string text)
    {
        long count = 0;
        foreach (var _ in text.EnumerateRunes())
            count++;
        return count;
    }

    const int MaxPattern = 10_000;
    static readonly TimeSpan MatchPatience = TimeSpan.FromSeconds(2);

    // The non-backtracking engine: linear time whatever the pattern. How steep the line is depends on the pattern, so
    // there is a limit beside it.
    static Value Matches(string text, string pattern)
    {
        if (pattern.Length > MaxPattern)
            return Fail($"a pattern has {MaxPattern:N0} characters at most");
        if (Patterns.Count > 1000)
            Patterns.Clear();
        var regex = Patterns.GetOrAdd(pattern, p =>
        {
            try
            {
                return new Regex(p, RegexOptions.NonBacktracking | RegexOptions.CultureInvariant, MatchPatience);
            }
            catch (Exception e) when (e is ArgumentException or NotSupportedException)
            {
                return null;
            }
        });
        if (regex is null)
            return Fail($"{Value.String(pattern)} is not a regular expression");
        try
        {
            return Value.Bool(regex.IsMatch(text));
        }
        catch (RegexMatchTimeoutException)
        {
            return Fail($"the pattern {Value.String(pattern)} took longer than {MatchPatience.TotalSeconds} s");
        }
    }
}
