namespace GateChain.EndToEnd.Crashes;

/// <summary>What attempts of steps have written of themselves, from outside of the service.</summary>
sealed class Ledger(string folder)
{
    string Path => System.IO.Path.Combine(folder, "ledger");

    /// <summary>A step's program: it writes when it begins and when it ends, with its process.</summary>
    /// <param name="step">What it is called there.</param>
    /// <param name="seconds">How long it takes.</param>
    public static string Program(string step, string seconds) =>
        $"echo ${{run.id}} {step} begin $$ >> ledger; sleep {seconds}; echo ${{run.id}} {step} end $$ >> ledger";

    sealed record Line(string Run, string Step, string What, string Process);

    IEnumerable<Line> Lines =>
        File.Exists(Path)
            ? File.ReadAllLines(Path).Select(l => l.Split(' ')).Select(p => new Line(p[0], p[1], p[2], p[3]))
            : [];

    /// <summary>How often something was written of a step of a run.</summary>
    public int Count(long run, string step, string what) =>
        Lines.Count(l => l.Run == $"{run}" && l.Step == step && l.What == what);

    /// <summary>
    /// Nothing was at work twice at once: whoever ends is who began last, and nobody ends after another one has begun.
    /// </summary>
    public void NobodyWorkedBesideAnother()
    {
        foreach (var step in Lines.GroupBy(l => (l.Run, l.Step)))
        {
            var begun = "";
            foreach (var line in step)
            {
                if (line.What == "begin")
                    begun = line.Process;
                else
                    Assert.True(begun == line.Process, $"{step.Key}: {string.Join(", ", step)}");
            }
            Assert.True(step.Last().What == "end", $"{step.Key}: {string.Join(", ", step)}");
        }
    }

    /// <summary>No two of a step's programs were at work at once, whichever run they are of.</summary>
    public void OneAtATime(string step)
    {
        Line? open = null;
        foreach (var line in Lines.Where(l => l.Step == step))
        {
            if (line.What == "begin")
                open = line;
            else
                Assert.True(open?.Process == line.Process, $"{open} and {line}");
        }
    }
}
