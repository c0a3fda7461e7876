using GateChain.Core.Running;
using GateChain.Core.Running.Events;

namespace GateChain.Kinds.Contract;

/// <summary>
/// Work can't continue: the step fails with what is said here. Kinds throw it; their base turns it into a result.
/// </summary>
public sealed class StepFailedException(StepError error) : Exception(error.Message)
{
    /// <summary>Ends an attempt as failed.</summary>
    /// <param name="code">A short stable word.</param>
    /// <param name="message">One sentence.</param>
    /// <param name="detail">More, over several lines; null for no more.</param>
    public StepFailedException(string code, string message, string? detail = null)
        : this(new StepError(code, message, detail)) { }

    /// <summary>What failed.</summary>
    public StepError Error { get; } = error;

    /// <summary>The same as the attempt's result.</summary>
    public AttemptResult Result => AttemptResult.Fail(Error.Code, Error.Message, Error.Detail);
}
