using System.Globalization;
using System.Runtime.CompilerServices;
using System.Text;

namespace GateChain.Core.Expressions;

/// <summary>
/// What is said about one occurrence of a problem: a form, and what stands in it. Written as an interpolated string,
/// <c>$"there is no kind “{name}”"</c>, which keeps the two apart. Immutable once written; equal when it says the same.
/// </summary>
[InterpolatedStringHandler]
public sealed class Sentence : IEquatable<Sentence>
{
    readonly StringBuilder _format;
    readonly StringBuilder _text;
    readonly List<string> _arguments;

    /// <summary>Called by the compiler.</summary>
    /// <param name="literalLength">The length of what does not change.</param>
    /// <param name="formattedCount">How many arguments follow.</param>
    public Sentence(int literalLength, int formattedCount) =>
        (_format, _text, _arguments) = (
            new(literalLength + 3 * formattedCount),
            new(literalLength),
            new(formattedCount)
        );

    /// <summary>The form, with <c>{0}</c> where the first argument stands; braces of the text are doubled.</summary>
    public string Format => _format.ToString();

    /// <summary>What stands in it: names, types, numbers, and words that depend on them.</summary>
    public IReadOnlyList<string> Arguments => _arguments;

    /// <summary>Called by the compiler.</summary>
    public void AppendLiteral(string value)
    {
        _text.Append(value);
        _format.Append(value.Replace("{", "{{", StringComparison.Ordinal).Replace("}", "}}", StringComparison.Ordinal));
    }

    /// <summary>Called by the compiler.</summary>
    public void AppendFormatted<T>(T value, string? format = null)
    {
        var text = value switch
        {
            string plain => plain,
            IFormattable number => number.ToString(format, CultureInfo.InvariantCulture),
            _ => value?.ToString() ?? "",
        };
        _text.Append(text);
        _format.Append(CultureInfo.InvariantCulture, $"{{{_arguments.Count}}}");
        _arguments.Add(text);
    }

    /// <summary>The sentence.</summary>
    public override string ToString() => _text.ToString();

    public bool Equals(Sentence? other) => other is not null && _text.Equals(other._text);

    public override bool Equals(object? obj) => Equals(obj as Sentence);

    public override int GetHashCode() => ToString().GetHashCode(StringComparison.Ordinal);
}
