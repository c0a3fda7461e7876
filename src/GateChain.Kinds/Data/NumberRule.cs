namespace GateChain.Kinds.Data;

/// <summary>
/// What numbers become in expressions that no int of 64 bits and no binary number holds with all of its digits: the
/// nearest binary number, or an exact decimal. Exact ones of more than 38 digits are the nearest binary numbers in
/// both.
/// </summary>
public enum NumberRule
{
    Near,
    Exact,
}
