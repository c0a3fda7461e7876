using GateChain.Client;
using GateChain.Kinds.Load.Looking;

namespace GateChain.Service.Views;

/// <summary>Looks at data, as the API tells them.</summary>
static class PreviewViews
{
    public static PreviewInfo Of(LoadLook look) =>
        new(
            look.What,
            look.Sample is { } sample ? Of(sample) : null,
            look.Found is { } found
                ? new(
                    found.From,
                    found.Columns,
                    found.Found,
                    [.. found.Header.Select(c => new FoundColumnInfo(c.Name, c.Type, c.Format, c.Empty, c.Examples))],
                    Of(found.Sample)
                )
                : null,
            look.Problem
        );

    static SampleInfo Of(RowSample sample) =>
        new(
            sample.Names,
            sample.Rows,
            sample.Seen,
            sample.IsAll,
            sample.Rejected,
            [.. sample.Rejects.Select(r => new RejectInfo(r.Line, r.Reason))]
        );
}
