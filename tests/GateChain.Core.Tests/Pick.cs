using CsCheck;

namespace GateChain.Core.Tests;

static class Pick
{
    /// <summary>One of the given values.</summary>
    public static Gen<T> One<T>(params T[] values) => Gen.Int[0, values.Length - 1].Select(i => values[i]);
}
