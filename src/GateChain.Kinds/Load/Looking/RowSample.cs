using GateChain.Kinds.Contract;
using GateChain.Kinds.Data;
using GateChain.Kinds.Load.Sources;

namespace GateChain.Kinds.Load.Looking;

/// <summary>A row that would be rejected.</summary>
/// <param name="Line">Where it stands.</param>
/// <param name="Reason">Why.</param>
public sealed record FoundReject(long Line, string Reason);

/// <summary>What a load would make of the first rows of a source.</summary>
/// <param name="Names">The columns of the target.</param>
/// <param name="Rows">The first rows, as texts.</param>
/// <param name="Seen">How many rows were looked at.</param>
/// <param name="IsAll">Whether these are all.</param>
/// <param name="Rejected">How many of them would be rejected.</param>
/// <param name="Rejects">The first of those.</param>
public sealed record RowSample(
    IReadOnlyList<string> Names,
    IReadOnlyList<IReadOnlyList<string?>> Rows,
    long Seen,
    bool IsAll,
    long Rejected,
    IReadOnlyList<FoundReject> Rejects
)
{
    const int Shown = 8;

    /// <summary>Reads the first rows.</summary>
    /// <exception cref="StepFailedException">The source lacks a column that is asked for.</exception>
    internal static RowSample Of(LoadSettings settings, RowSource source, int most, CancellationToken cancel)
    {
        var reader = new RowReader(settings, source);
        var (rows, rejects) = (new List<IReadOnlyList<string?>>(), new List<FoundReject>());
        long rejected = 0;
        var row = new object?[reader.Count];
        var (seen, all) = Go(
            source,
            most,
            nth =>
            {
                if (reader.Read(row) is { } reject)
                {
                    if (rejected++ < Shown)
                        rejects.Add(new(source.LineOf(nth), reject.Reason));
                }
                else if (rows.Count < Shown)
                {
                    rows.Add([.. row.Select(cell => cell is null ? null : Cells.Text(cell))]);
                }
            },
            cancel
        );
        return new([.. RowReader.Wanted(settings, source).Keys], rows, seen, all, rejected, rejects);
    }

    /// <summary>Goes through the first rows; tells how many there were, and whether that was the end.</summary>
    internal static (long Seen, bool IsAll) Go(RowSource source, int most, Action<long> row, CancellationToken cancel)
    {
        for (var seen = 0L; seen < most; seen++)
        {
            cancel.ThrowIfCancellationRequested();
            if (!source.Read())
                return (seen, true);
            row(seen + 1);
        }
        return (most, false);
    }
}
