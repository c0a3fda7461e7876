namespace GateChain.Core.Running.State;

/// <summary>What one piece of work is named after; its text is what kinds write into other databases.</summary>
/// <param name="Uid">Of the run.</param>
/// <param name="Step">The step's path.</param>
/// <param name="Successes">How often the step had succeeded before.</param>
public readonly record struct WorkKey(string Uid, string Step, int Successes)
{
    public override string ToString() => $"{Uid}/{Step}/{Successes}";
}
