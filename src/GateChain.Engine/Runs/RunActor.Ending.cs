using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Engine.Basics;

namespace GateChain.Engine.Runs;

/// <summary>How a mailbox ends before its run does.</summary>
sealed partial class RunActor
{
    sealed record LetGo(bool Force, TaskCompletionSource<long?> Done);

    // An input whose decision can't be stored: the state is ahead of what the disk will ever have, so nothing more is
    // decided on it.
    UnstorableInput? _unstorable;

    /// <summary>
    /// Gives the run up as it is on disk, so that another node may continue with it. Gives its epoch; null when it is
    /// at work or has something on its way to the disk.
    /// </summary>
    /// <param name="force">Whether that does not matter: attempts are ended, and whoever waits for an answer is told
    /// that nobody knows.</param>
    public Task<long?> LetGoAsync(bool force)
    {
        var letGo = new LetGo(force, new(TaskCreationOptions.RunContinuationsAsynchronously));
        Enqueue(letGo);
        return letGo.Done.Task;
    }

    void LetItGo(LetGo letGo)
    {
        if (_fenced || (!letGo.Force && (_waiting.Count > 0 || !Attempts.IsEmpty)))
        {
            letGo.Done.SetResult(null);
            return;
        }
        Fence(null);
        letGo.Done.SetResult(_epoch);
    }

    const string InternalError = "an internal error ended its work here; the service's log has it";

    /// <summary>Decides nothing more; the run stays as it is on disk.</summary>
    /// <param name="why">Why, for those who look after the service; null when it continues by itself.</param>
    void Fence(string? why)
    {
        if (_fenced)
            return;
        _fenced = true;
        Attempts.CancelAll();
        while (_waiting.TryDequeue(out var waiting))
            waiting.Written?.TrySetException(LostRun());
        Dispose();
        _work.End();
        _services.Keeper.Gone(this, why);
    }

    // What can't be written down must not happen: the run continues from what is on disk, where the input fails its
    // step, or the run.
    void Condemn(RunInput input, long size, TaskCompletionSource<DecideResult>? written)
    {
        var most = Bounds.Text(_services.Options.Bounds.DecisionSize);
        var why =
            $"what follows from this would take {Bounds.Text(size)} in the journal, "
            + $"and {most} are the most; give smaller values from step to step, "
            + "or put them in a file or a table";
        // A second one would be the end of it: the run is left as it is on disk.
        if (input is UnstorableInput)
        {
            Fence(why);
            return;
        }
        _unstorable = new(input, why);
        written?.TrySetException(new RefusedException(RefusalKind.Invalid, why));
        if (_waiting.Count == 0)
            HandOver();
    }

    void HandOver()
    {
        var input = _unstorable!;
        Fence(null);
        _services.Keeper.RecoverFromDisk(this, input);
    }
}
