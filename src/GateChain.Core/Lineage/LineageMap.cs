using GateChain.Core.Datasets;

namespace GateChain.Core.Lineage;

/// <summary>A step of a chain that reads or writes data.</summary>
/// <param name="Chain">The chain.</param>
/// <param name="Step">The step's address in it.</param>
public sealed record DataStep(string Chain, string Step);

/// <summary>Data go from one place to another through a step.</summary>
/// <param name="From">What it reads.</param>
/// <param name="Through">The step.</param>
/// <param name="To">What it writes.</param>
/// <param name="Steps">How many steps away from what was asked for, from 1.</param>
public sealed record DataFlow(Dataset From, DataStep Through, Dataset To, int Steps);

/// <summary>Data, and the steps that write and read it.</summary>
public sealed record DatasetUses(Dataset Data, IReadOnlyList<DataStep> Writers, IReadOnlyList<DataStep> Readers);

/// <summary>
/// The data of many chains: what feeds a table, and what is behind when a file does not come. What one step reads goes
/// into what the same step writes; from step to step it goes through data that are, or may be, the same. Immutable.
/// </summary>
public sealed class LineageMap
{
    readonly ILookup<Dataset, DataStep> _writers,
        _readers;
    readonly ILookup<DataStep, Dataset> _reads,
        _writes;
    readonly IReadOnlyList<Dataset> _all;

    /// <param name="chains">The chains with what their steps do with data.</param>
    public LineageMap(IEnumerable<(string Chain, IReadOnlyList<StepData> Steps)> chains)
    {
        var uses = chains
            .SelectMany(c => c.Steps.Select(s => (Step: new DataStep(c.Chain, s.Step), s.Use)))
            .Distinct()
            .ToList();
        var written = uses.Where(u => u.Use.Direction == DataDirection.Writes).ToList();
        var read = uses.Where(u => u.Use.Direction == DataDirection.Reads).ToList();
        (_writers, _readers) = (
            written.ToLookup(u => u.Use.Data, u => u.Step),
            read.ToLookup(u => u.Use.Data, u => u.Step)
        );
        (_writes, _reads) = (
            written.ToLookup(u => u.Step, u => u.Use.Data),
            read.ToLookup(u => u.Step, u => u.Use.Data)
        );
        _all =
        [
            .. uses.Select(u => u.Use.Data)
                .Distinct()
                .OrderBy(d =>
                    d.Form switch
                    {
                        DataForm.Table => 0,
                        DataForm.Address => 1,
                        _ => 2,
                    }
                )
                .ThenBy(d => d.Name.StartsWith("${", StringComparison.Ordinal))
                .ThenBy(d => d.Connection, StringComparer.Ordinal)
                .ThenBy(d => d.Name, StringComparer.Ordinal),
        ];
    }

    /// <summary>All data: tables, addresses, files, by connection and name; what is only computed last.</summary>
    public IReadOnlyList<DatasetUses> All => [.. _all.Select(Of)];

    /// <summary>Who writes and reads some data, also under a pattern that it may be.</summary>
    public DatasetUses Of(Dataset data)
    {
        var same = Same(data).ToList();
        return new(
            data,
            [.. same.SelectMany(d => _writers[d]).Distinct()],
            [.. same.SelectMany(d => _readers[d]).Distinct()]
        );
    }

    /// <summary>The steps of others that read what a chain writes, with the data as the chain writes it.</summary>
    public IEnumerable<(Dataset Data, DataStep Reader)> ReadersOf(string chain) =>
        _writes
            .Where(step => step.Key.Chain == chain)
            .SelectMany(data => data)
            .Distinct()
            .SelectMany(data => Of(data).Readers.Where(r => r.Chain != chain).Select(r => (data, r)));

    /// <summary>Data whose name, or connection and name, is a text; else those that it may be, as a pattern.</summary>
    public IReadOnlyList<Dataset> Find(string text)
    {
        var exact = _all.Where(d => d.ToString() == text || d.Name == text).ToList();
        if (exact.Count > 0)
            return exact;
        var colon = text.IndexOf(':', StringComparison.Ordinal);
        var (connection, name) = colon > 0 ? (text[..colon], text[(colon + 1)..]) : (null, text);
        return
        [
            .. _all.Where(d =>
                NamePatterns.Meet(d.Name, text, d.Form) && d.Connection is null
                || NamePatterns.Meet(d.Name, name, d.Form) && (connection is null || d.Connection == connection)
            ),
        ];
    }

    /// <summary>What feeds some data, nearest first.</summary>
    public IReadOnlyList<DataFlow> Before(Dataset data) => Walk(data, _writers, _reads, upwards: true);

    /// <summary>What comes of some data, nearest first: what is behind when it does not come.</summary>
    public IReadOnlyList<DataFlow> After(Dataset data) => Walk(data, _readers, _writes, upwards: false);

    List<DataFlow> Walk(
        Dataset from,
        ILookup<Dataset, DataStep> steps,
        ILookup<DataStep, Dataset> further,
        bool upwards
    )
    {
        var flows = new List<DataFlow>();
        var seen = new HashSet<Dataset> { from };
        var through = new HashSet<(DataStep, Dataset)>();
        var next = new List<Dataset> { from };
        for (var distance = 1; next.Count > 0; distance++)
        {
            var found = new List<Dataset>();
            foreach (var at in next)
            {
                foreach (var step in Same(at).SelectMany(d => steps[d]).Distinct())
                {
                    foreach (var data in further[step].Where(d => through.Add((step, d))))
                    {
                        flows.Add(upwards ? new(data, step, at, distance) : new(at, step, data, distance));
                        if (seen.Add(data))
                            found.Add(data);
                    }
                }
            }
            next = found;
        }
        return flows;
    }

    // It, and what may be the same.
    IEnumerable<Dataset> Same(Dataset data) => _all.Where(d => d.Meets(data));
}
