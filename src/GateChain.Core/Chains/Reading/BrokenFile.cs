using GateChain.Core.Chains.Kinds;
using GateChain.Core.Chains.Source;
using GateChain.Core.Problems;

namespace GateChain.Core.Chains.Reading;

/// <summary>
/// Of a file that is broken somewhere, reads what stands before the broken place, so that its other problems are told
/// at once too. Told is only what can't be due to the missing rest.
/// </summary>
static class BrokenFile
{
    static readonly HashSet<ProblemKind> Certain =
    [
        ProblemKinds.DoubleKey,
        ProblemKinds.UnknownKey,
        ProblemKinds.BadName,
        ProblemKinds.UnknownChoice,
        ProblemKinds.UnknownKind,
        ProblemKinds.BadExpression,
        ProblemKinds.UnknownType,
        ProblemKinds.WrongValue,
    ];

    /// <summary>Looks through the lines before a place.</summary>
    /// <param name="text">The whole file.</param>
    /// <param name="at">Where reading broke off.</param>
    /// <param name="kinds">The kinds that steps may have.</param>
    /// <param name="problems">Gets what is found.</param>
    public static void Look(string text, int at, KindCatalogue kinds, ProblemList problems)
    {
        // Back to a line at which the text before it stands for itself; the broken place often lies some lines behind
        // its cause.
        var end = at;
        for (var tries = 0; tries < 50 && end > 0; tries++)
        {
            end = text.LastIndexOf('\n', end - 1) + 1;
            if (end <= 0)
                return;
            var found = new ProblemList(problems.File, text);
            if (NodeReader.Read(text[..end], found) is { } file)
            {
                ChainReader.Read(file, kinds, found);
                problems.Take(found.Ordered.Where(p => Certain.Contains(p.Kind)));
                return;
            }
            end--;
        }
    }
}
