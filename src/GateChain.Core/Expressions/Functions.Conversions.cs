using System.Globalization;
using System.Text;
using GateChain.Core.Values;

namespace GateChain.Core.Expressions;

public static partial class Functions
{
    const double TwoTo63 = 9223372036854775808.0;

    static void AddConversions()
    {
        Add("type(A) -> type<A>", a => Value.Type(a[0].TypeName));
        Add("dyn(A) -> any", a => a[0]);

        Add("int(int) -> int", a => a[0]);
        Add("int(uint) -> int", a =>
            a[0].AsUint > long.MaxValue ? Fail("the number is too big for int") : Value.Int((long)a[0].AsUint)
        );
        Add("int(double) -> int", a =>
            a[0].AsDouble is > -TwoTo63 and < TwoTo63
                ? Value.Int((long)a[0].AsDouble)
                : Fail("the number is out of range for int")
        );
        Add("int(string) -> int", a =>
            long.TryParse(a[0].AsString, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var n)
                ? Value.Int(n)
                : Fail($"{a[0]} is not an int")
        );
        Add("int(timestamp) -> int", a => Value.Int(a[0].Seconds));

        Add("uint(uint) -> uint", a => a[0]);
        Add("uint(int) -> uint", a =>
            a[0].AsInt < 0 ? Fail("a uint can't be negative") : Value.Uint((ulong)a[0].AsInt)
        );
        Add("uint(double) -> uint", a =>
            a[0].AsDouble is > -1 and < 2 * TwoTo63
                ? Value.Uint((ulong)a[0].AsDouble)
                : Fail("the number is out of range for uint")
        );
        Add("uint(string) -> uint", a =>
            ulong.TryParse(a[0].AsString, NumberStyles.None, CultureInfo.InvariantCulture, out var n)
                ? Value.Uint(n)
                : Fail($"{a[0]} is not a uint")
        );

        Add("double(double) -> double", a => a[0]);
        Add("double(int) -> double", a => Value.Double(a[0].AsInt));
        Add("double(uint) -> double", a => Value.Double(a[0].AsUint));
        Add("double(string) -> double", a =>
            double.TryParse(a[0].AsString, NumberStyles.Float, CultureInfo.InvariantCulture, out var d)
                ? Value.Double(d)
                : Fail($"{a[0]} is not a double")
        );

        Add("bool(bool) -> bool", a => a[0]);
        Add("bool(string) -> bool", a => a[0].AsString switch
            {
                "1" or "t" or "T" or "true" or "TRUE" or "True" => Value.True,
                "0" or "f" or "F" or "false" or "FALSE" or "False" => Value.False,
                _ => Fail($"{a[0]} is not a bool"),
            });

        foreach (var type in (string[])["string", "bool", "int", "uint", "double", "timestamp", "duration"])
            Add($"string({type}) -> string", a => Value.String(ValueText.ToPlainString(a[0])));

        Add("string(bytes) -> string", a =>
        {
            try
            {
                return Value.String(new UTF8Encoding(false, throwOnInvalidBytes: true).GetString(a[0].AsBytes));
            }
            catch (DecoderFallbackException)
            {
                return Fail("the bytes are not UTF-8 text");
            }
        });
        Add("bytes(bytes) -> bytes", a => a[0]);
        Add("bytes(string) -> bytes", a => Value.Bytes(Encoding.UTF8.GetBytes(a[0].AsString)));

        Add("timestamp(timestamp) -> timestamp", a => a[0]);
        Add("timestamp(int) -> timestamp", a =>
            a[0].AsInt is < TimeText.MinSeconds or > TimeText.MaxSeconds
                ? Fail("the timestamp is out of range")
                : Value.Timestamp(a[0].AsInt, 0)
        );
        Add("timestamp(string) -> timestamp", a =>
            TimeText.ParseTimestamp(a[0].AsString)
            ?? Fail($"{a[0]} is not a timestamp such as \"2026-11-22T05:00:00Z\"")
        );
        Add("duration(duration) -> duration", a => a[0]);
        Add("duration(string) -> duration", a =>
            TimeText.ParseDuration(a[0].AsString) ?? Fail($"{a[0]} is not a duration such as \"1h30m\"")
        );
    }
}
