namespace GateChain.Core.Values;

/// <summary>What a <see cref="Value"/> holds. The kinds are those of the Common Expression Language.</summary>
public enum ValueKind : byte
{
    Null,
    Bool,
    Int,
    Uint,
    Double,
    String,
    Bytes,
    Timestamp,
    Duration,
    List,
    Map,
    Type,
    Optional,

    /// <summary>An exact decimal; CEL has none.</summary>
    Decimal,

    /// <summary>The result of an evaluation that went wrong; never stored or journaled.</summary>
    Error,
}
