using System.Text;
using GateChain.Core.Values;

namespace GateChain.Core.Expressions;

/// <remarks>Source: CEL strings extension. Places in texts are counted in code points.</remarks>
public static partial class Functions
{
    /// <summary>The most characters or bytes that one result may have, and the most items.</summary>
    internal const int MaxSize = 10_000_000,
        MaxItems = 1_000_000;

    static void AddStrings()
    {
        Add("string.charAt(int) -> string", a =>
            Runes(a[0].AsString) is var runes && a[1].AsInt < 0 || a[1].AsInt > runes.Length
                ? OutOfRange(a[1])
                : Value.String(a[1].AsInt == runes.Length ? "" : runes[a[1].AsInt].ToString())
        );
        Add("string.indexOf(string) -> int", a => IndexOf(a[0], a[1], Value.Int(0)));
        Add("string.indexOf(string, int) -> int", a => IndexOf(a[0], a[1], a[2]));
        Add("string.lastIndexOf(string) -> int", a => LastIndexOf(a[0], a[1], null));
        Add("string.lastIndexOf(string, int) -> int", a => LastIndexOf(a[0], a[1], a[2].AsInt));
        Add("string.lowerAscii() -> string", a =>
            Value.String(
                string.Create(a[0].AsString.Length, a[0].AsString, static (to, from) =>
                    AsciiCase(from, to, upper: false)
                )
            )
        );
        Add("string.upperAscii() -> string", a =>
            Value.String(
                string.Create(a[0].AsString.Length, a[0].AsString, static (to, from) =>
                    AsciiCase(from, to, upper: true)
                )
            )
        );
        Add("string.replace(string, string) -> string", a => Replace(a[0].AsString, a[1].AsString, a[2].AsString, -1));
        Add("string.replace(string, string, int) -> string", a =>
            Replace(a[0].AsString, a[1].AsString, a[2].AsString, a[3].AsInt)
        );
        Add("string.reverse() -> string", a => Value.String(string.Concat(Runes(a[0].AsString).Reverse())));
        Add("string.split(string) -> list<string>", a => Parts(a[0].AsString, a[1].AsString, -1));
        Add("string.split(string, int) -> list<string>", a => Parts(a[0].AsString, a[1].AsString, a[2].AsInt));
        Add("string.substring(int) -> string", a => Substring(a[0].AsString, a[1], null));
        Add("string.substring(int, int) -> string", a => Substring(a[0].AsString, a[1], a[2]));
        Add("string.trim() -> string", a => Value.String(a[0].AsString.Trim()));
        Add("list<string>.join() -> string", a => Join(a[0].AsList, ""));
        Add("list<string>.join(string) -> string", a => Join(a[0].AsList, a[1].AsString));
        Add("strings.quote(string) -> string", a => Value.String(Quote(a[0].AsString)));
        Add("string.format(list<any>) -> string", a => TextFormat.Apply(a[0].AsString, a[1].AsList));
        Add("base64.encode(bytes) -> string", a => Value.String(Convert.ToBase64String(a[0].AsBytes)));
        Add("base64.decode(string) -> bytes", a => Base64(a[0].AsString));
    }

    static void AsciiCase(string from, Span<char> to, bool upper)
    {
        for (var i = 0; i < to.Length; i++)
        {
            to[i] =
                upper ? (char.IsAsciiLetterLower(from[i]) ? (char)(from[i] - 32) : from[i])
                : char.IsAsciiLetterUpper(from[i]) ? (char)(from[i] + 32)
                : from[i];
        }
    }

    static Rune[] Runes(string text) => [.. text.EnumerateRunes()];

    static Value OutOfRange(Value index) => Fail($"the place {index} is outside of the text");

    static Value IndexOf(Value text, Value part, Value from)
    {
        var (runes, wanted) = (Runes(text.AsString), Runes(part.AsString));
        if (from.AsInt < 0 || from.AsInt > runes.Length)
            return OutOfRange(from);
        var at = runes.AsSpan((int)from.AsInt).IndexOf(wanted);
        return Value.Int(at < 0 ? -1 : at + from.AsInt);
    }

    static Value LastIndexOf(Value text, Value part, long? upTo)
    {
        var (runes, wanted) = (Runes(text.AsString), Runes(part.AsString));
        if (upTo is < 0 || upTo > runes.Length)
            return OutOfRange(Value.Int(upTo.Value));
        var last = Math.Min(upTo ?? runes.Length, runes.Length - wanted.Length);
        return Value.Int(last < 0 ? -1 : runes.AsSpan(0, (int)last + wanted.Length).LastIndexOf(wanted));
    }

    // An empty text is found before every character and at the end.
    static Value Replace(string text, string old, string by, long limit)
    {
        if (limit == 0 || (old.Length == 0 && by.Length == 0))
            return Value.String(text);
        var result = new StringBuilder();
        long done = 0;
        var at = 0;
        while (limit < 0 || done < limit)
        {
            var next = old.Length == 0 ? at : text.IndexOf(old, at, StringComparison.Ordinal);
            if (next < 0 || at > text.Length)
                break;
            result.Append(text, at, next - at).Append(by);
            if (result.Length > MaxSize)
                return TooBig();
            done++;
            at = next + old.Length;
            if (old.Length > 0)
                continue;
            if (at == text.Length)
                return Value.String(result.ToString());
            var rune = Rune.TryGetRuneAt(text, at, out var found) ? found.Utf16SequenceLength : 1;
            result.Append(text, at, rune);
            at += rune;
        }
        result.Append(text, at, text.Length - at);
        return result.Length > MaxSize ? TooBig() : Value.String(result.ToString());
    }

    static Value Parts(string text, string separator, long limit)
    {
        if (limit == 0)
            return Value.EmptyList;
        if (limit == 1)
            return Value.List([Value.String(text)]);
        var most = limit < 0 ? int.MaxValue : (int)Math.Min(limit, int.MaxValue);
        if (separator.Length > 0)
            return Value.List([.. text.Split(separator, most).Select(Value.String)]);
        var runes = Runes(text).Select(r => r.ToString()).ToList();
        if (runes.Count > most)
        {
            runes[most - 1] = string.Concat(runes.Skip(most - 1));
            runes.RemoveRange(most, runes.Count - most);
        }
        return Value.List([.. runes.Select(Value.String)]);
    }

    static Value Substring(string text, Value from, Value? to)
    {
        var runes = Runes(text);
        var (start, end) = (from.AsInt, to?.AsInt ?? runes.Length);
        if (start < 0 || start > runes.Length)
            return OutOfRange(from);
        if (end < 0 || end > runes.Length)
            return OutOfRange(to!.Value);
        return end < start
            ? Fail($"the end {end} lies before the start {start}")
            : Value.String(string.Concat(runes[(int)start..(int)end]));
    }

    static Value Join(IReadOnlyList<Value> items, string separator)
    {
        var result = new StringBuilder();
        for (var i = 0; i < items.Count; i++)
        {
            if (items[i].Kind != ValueKind.String)
                return Fail($"join() takes texts, and item {i} is {Article.Of(items[i].KindWord)}");
            result.Append(i == 0 ? "" : separator).Append(items[i].AsString);
            if (result.Length > MaxSize)
                return TooBig();
        }
        return Value.String(result.ToString());
    }

    static string Quote(string text)
    {
        var quoted = new StringBuilder("\"");
        foreach (var rune in text.EnumerateRunes())
        {
            _ = rune.Value switch
            {
                '\a' => quoted.Append("\\a"),
                '\b' => quoted.Append("\\b"),
                '\f' => quoted.Append("\\f"),
                '\n' => quoted.Append("\\n"),
                '\r' => quoted.Append("\\r"),
                '\t' => quoted.Append("\\t"),
                '\v' => quoted.Append("\\v"),
                '\\' => quoted.Append("\\\\"),
                '"' => quoted.Append("\\\""),
                _ => quoted.Append(rune.ToString()),
            };
        }
        return quoted.Append('"').ToString();
    }

    static Value Base64(string text)
    {
        // Padding may be left out.
        var bytes = new byte[text.Length];
        return Convert.TryFromBase64String(text.PadRight((text.Length + 3) / 4 * 4, '='), bytes, out var length)
            ? Value.Bytes(bytes[..length])
            : Fail("the text is not base64");
    }

    static Value TooBig() => Fail($"the result would have more than {MaxSize:N0} characters or {MaxItems:N0} items");
}
