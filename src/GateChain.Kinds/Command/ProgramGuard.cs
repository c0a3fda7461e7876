namespace GateChain.Kinds.Command;

/// <summary>
/// Ends the programs of a service that shares its runs with others, when that service can't: it has died, hangs, or has
/// not been able to say to the others that it is there. Runs in a process of its own beside it.
/// </summary>
public static class ProgramGuard
{
    /// <summary>The variable that all programs of a service inherit.</summary>
    public const string Variable = "GATECHAIN_NODE";

    /// <summary>How long the service may be silent until its programs are ended. Others begin again what was in flight
    /// a
    /// second later at the earliest.</summary>
    public static readonly TimeSpan Patience = TimeSpan.FromSeconds(6);

    static readonly TimeSpan Again = TimeSpan.FromSeconds(1);

    /// <summary>Watches until the service has ended, and nothing of it is left.</summary>
    /// <param name="node">The id of the service among others.</param>
    /// <param name="beats">A line for each time that it said that it is there; its end is the service's.</param>
    /// <param name="patience">How long it may be silent.</param>
    /// <param name="ended">Told how many processes were ended, each time that there were some.</param>
    public static async Task WatchAsync(string node, TextReader beats, TimeSpan patience, Action<int> ended)
    {
        var wait = patience;
        var beat = beats.ReadLineAsync();
        while (true)
        {
            if (await Task.WhenAny(beat, Task.Delay(wait)).ConfigureAwait(false) != beat)
            {
                // It may start others as long as it is not heard.
                EndAll(node, ended);
                wait = Again;
                continue;
            }
            if (await beat.ConfigureAwait(false) is null)
                break;
            (beat, wait) = (beats.ReadLineAsync(), patience);
        }
        // What is just being started by one that is ended is met the next time.
        for (var i = 0; i < 10 && EndAll(node, ended); i++)
            await Task.Delay(100).ConfigureAwait(false);
    }

    static bool EndAll(string node, Action<int> ended)
    {
        var mark = $"{Variable}={node}";
        var left = ProcessGroup.LeftOf(null, mark);
        if (left.Count == 0)
            return false;
        ProcessGroup.KillAll(null, mark);
        ended(left.Count);
        return true;
    }
}
