using System.Globalization;
using GateChain.Core.Values;

namespace GateChain.Core.Chains.Source;

/// <summary>What YAML nodes mean as values, after the core schema of YAML 1.2.</summary>
static class PlainValues
{
    public static Value Of(Node node) =>
        node switch
        {
            ScalarNode scalar => Scalar(scalar),
            SequenceNode sequence => Value.List([.. sequence.Items.Select(Of)]),
            MappingNode mapping => Value.Map(
                DictionaryMap.Of(mapping.Entries.Select(e => KeyValuePair.Create(e.Key.Text, Of(e.Value))))
            ),
            _ => Value.Null,
        };

    public static Value Scalar(ScalarNode scalar)
    {
        var text = scalar.Text;
        if (!scalar.IsPlain)
            return Value.String(text);
        if (scalar.IsNull)
            return Value.Null;
        if (text is "true" or "True" or "TRUE")
            return Value.True;
        if (text is "false" or "False" or "FALSE")
            return Value.False;
        if (text[0] is not ('+' or '-' or '.') && !char.IsAsciiDigit(text[0]))
            return Value.String(text);
        if (long.TryParse(text, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var whole))
            return Value.Int(whole);
        if (
            text.StartsWith("0x", StringComparison.Ordinal)
            && long.TryParse(text.AsSpan(2), NumberStyles.AllowHexSpecifier, CultureInfo.InvariantCulture, out var hex)
        )
        {
            return Value.Int(hex);
        }
        if (
            double.TryParse(
                text,
                NumberStyles.AllowLeadingSign | NumberStyles.AllowDecimalPoint | NumberStyles.AllowExponent,
                CultureInfo.InvariantCulture,
                out var real
            )
        )
        {
            return Value.Double(real);
        }
        return Value.String(text);
    }
}
