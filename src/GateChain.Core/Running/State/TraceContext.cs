using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using GateChain.Core.Values;

namespace GateChain.Core.Running.State;

/// <summary>
/// Where a run stands in a distributed trace: the trace that a caller of its hook or the run above it began, else one
/// of its own. Ids follow from what they name, so that they are the same on any node, and after a crash. Pure.
/// </summary>
/// <param name="Trace">32 hexadecimal digits.</param>
/// <param name="Above">The span that it was begun from, 16 hexadecimal digits; null for none.</param>
/// <remarks>Source: W3C Trace Context, version 00.</remarks>
public sealed record TraceContext(string Trace, string? Above)
{
    /// <summary>The name of the header, and of the variable in capitals.</summary>
    public const string Header = "traceparent";

    /// <summary>That of a run.</summary>
    public static TraceContext Of(RunState run) =>
        Parse(run.Parent?.Trace) ?? Parse(FromHook(run)) ?? new(Hash(run.Uid, 32), null);

    static string? FromHook(RunState run) =>
        run.Fire?.Event is { Kind: ValueKind.Map } happened
        && happened.AsMap.Find("headers") is { Kind: ValueKind.Map } headers
        && headers.AsMap.Find(Header) is { Kind: ValueKind.String } header
            ? header.AsString
            : null;

    /// <summary>What an attempt shows to whom it calls.</summary>
    /// <param name="run">The run.</param>
    /// <param name="attempt">The attempt's number among all of the run.</param>
    public static string Shown(RunState run, int attempt) => $"00-{Of(run).Trace}-{SpanOf(run.Uid, attempt)}-01";

    /// <summary>The id of an attempt's span.</summary>
    public static string SpanOf(string uid, int attempt) =>
        Hash(string.Create(CultureInfo.InvariantCulture, $"{uid}/{attempt}"), 16);

    /// <summary>The id of a leg's span.</summary>
    public static string LegOf(string uid, int leg) =>
        Hash(string.Create(CultureInfo.InvariantCulture, $"{uid}/leg/{leg}"), 16);

    static string Hash(string text, int digits) =>
        Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(text)))[..digits];

    /// <summary>What a header says; null when it is none.</summary>
    public static TraceContext? Parse(string? header) =>
        // Later versions may have more behind it.
        header is { Length: >= 55 and <= 200 }
        && header[2] == '-'
        && header[35] == '-'
        && header[52] == '-'
        && (header.Length == 55 || header[55] == '-' && header[..2] != "00")
        && IsHex(header[..2])
        && header[..2] != "ff"
        && IsId(header[3..35])
        && IsId(header[36..52])
        && IsHex(header[53..55])
            ? new(header[3..35], header[36..52])
            : null;

    static bool IsHex(string text) => text.All(char.IsAsciiHexDigitLower);

    static bool IsId(string text) => IsHex(text) && text.Any(c => c != '0');
}
