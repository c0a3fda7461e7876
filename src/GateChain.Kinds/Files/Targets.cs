using GateChain.Kinds.Contract;

namespace GateChain.Kinds.Files;

/// <summary>What holds for the targets of several files at once.</summary>
static class Targets
{
    /// <summary>Sees that no two files have the same target: the last one would be all that is left.</summary>
    /// <param name="ways">Each file with its target.</param>
    /// <param name="advice">That nothing was done, and what to do instead.</param>
    /// <exception cref="StepFailedException">Two have.</exception>
    public static void MustDiffer(IEnumerable<(FileInfo File, string To)> ways, string advice)
    {
        if (ways.GroupBy(w => w.To).FirstOrDefault(g => g.Count() > 1) is not { } same)
            return;
        throw new StepFailedException(
            "same-target",
            $"{same.Count()} files would become {same.Key}: "
                + $"{string.Join(", ", same.Take(3).Select(w => w.File.FullName))}"
                + $"{(same.Count() > 3 ? " …" : "")}",
            advice
        );
    }
}
