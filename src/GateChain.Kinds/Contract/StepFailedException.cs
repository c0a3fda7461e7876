using GateChain.Core.Running;
using GateChain.Core.Running.Events;

namespace GateChain.Kinds.Contract;

/// <summary>
/// Work can't go on: the step fails with what is said here. Kinds throw it; their base turns it into a result.
/// </summary>
public sealed class StepFailedException(StepError error) : Exception(error.Message)
{
    public StepFailedException(string code, string message, string? detail = null)
        : this(new StepError(code, message, detail)) { }

    public StepError Error { get; } = error;

    public AttemptResult Result => AttemptResult.Fail(Error.Code, Error.Message, Error.Detail);
}
