using GateChain.Kinds.Contract;
using GateChain.Kinds.Data;
using GateChain.Kinds.Load.Sources;

namespace GateChain.Kinds.Load.Looking;

/// <summary>A column as a look has found it.</summary>
/// <param name="Name">Its name; <c>column1</c> and so on where the file has none.</param>
/// <param name="Type">What its values can be read as; null for texts.</param>
/// <param name="Format">How dates or times are written; null for the usual way.</param>
/// <param name="Empty">In how many rows it has nothing.</param>
/// <param name="Examples">Some of its values, at most three.</param>
public sealed record FoundColumn(string Name, string? Type, string? Format, long Empty, IReadOnlyList<string> Examples);

/// <summary>A row that would be rejected.</summary>
/// <param name="Line">Where it stands.</param>
/// <param name="Reason">Why.</param>
public sealed record FoundReject(long Line, string Reason);

/// <summary>What a file is like, before anything is loaded of it.</summary>
/// <param name="From">The settings that read it, as the step has them in YAML under <c>from</c>.</param>
/// <param name="Columns">Its columns, as under <c>columns</c>.</param>
/// <param name="Found">What was found, in sentences.</param>
/// <param name="Header">The columns one by one.</param>
/// <param name="Rows">The first rows, as texts.</param>
/// <param name="Seen">How many rows were looked at.</param>
/// <param name="IsAll">Whether these are all.</param>
/// <param name="Rejected">How many of them would be rejected.</param>
/// <param name="Rejects">The first of those.</param>
public sealed record FileLook(
    string From,
    string Columns,
    IReadOnlyList<string> Found,
    IReadOnlyList<FoundColumn> Header,
    IReadOnlyList<IReadOnlyList<string?>> Rows,
    long Seen,
    bool IsAll,
    long Rejected,
    IReadOnlyList<FoundReject> Rejects
)
{
    /// <summary>The most rows that are looked at.</summary>
    public const int MostRows = 10_000;

    const int Shown = 8;

    /// <summary>Looks at a file.</summary>
    /// <param name="name">The path as settings would have it.</param>
    /// <param name="path">The full path.</param>
    /// <param name="form">What it is: <c>csv</c>, <c>fixed</c>, <c>jsonl</c>, <c>json</c>, <c>xml</c>, <c>parquet</c>
    /// or <c>xlsx</c>; found when null.</param>
    /// <param name="cancel">Ends it.</param>
    /// <exception cref="StepFailedException">It can't be read at all.</exception>
    public static FileLook At(string name, string path, string? form, CancellationToken cancel)
    {
        var guess = FileGuess.Of(name, path, form);
        var types = new List<TypeGuess>();
        long seen = 0;
        bool all;
        using (var source = Open(name, path, guess.From))
        {
            types.AddRange(source.Names.Select(_ => new TypeGuess()));
            all = Go(
                source,
                () =>
                {
                    seen++;
                    if (source.Broken is not null)
                        return;
                    for (var i = 0; i < types.Count && i < source.FieldCount; i++)
                        types[i].See(source[i]);
                },
                cancel
            );
        }
        var rules = TypeGuess.Rules(types);
        var from = guess.From with
        {
            Text = guess.From.Text with { Decimal = rules.Decimal, Thousands = rules.Thousands, Empty = rules.Empty },
        };
        using var again = CleanSource.Of(Open(name, path, from), from.Text);
        var columns = again
            .Names.Zip(types, (n, t) => (Name: n, Column: t.Column(rules)))
            .DistinctBy(c => c.Name)
            .ToList();
        var settings = new LoadSettings { From = from, Columns = columns.ToDictionary(c => c.Name, c => c.Column) };
        var (rows, rejects, rejected) = Try(settings, again, cancel);
        return new(
            LookText.From(from),
            LookText.Columns(columns),
            [.. guess.Found, .. rules.Found],
            [
                .. columns.Select(
                    (c, i) =>
                        new FoundColumn(
                            c.Name,
                            c.Column.Type?.ToString().ToLowerInvariant(),
                            c.Column.Format,
                            types[i].Empty,
                            types[i].Examples
                        )
                ),
            ],
            rows,
            seen,
            all,
            rejected,
            rejects
        );
    }

    // What a load with these settings would say.
    static (List<IReadOnlyList<string?>> Rows, List<FoundReject> Rejects, long Rejected) Try(
        LoadSettings settings,
        RowSource source,
        CancellationToken cancel
    )
    {
        var reader = new RowReader(settings, source);
        var (rows, rejects) = (new List<IReadOnlyList<string?>>(), new List<FoundReject>());
        long read = 0,
            rejected = 0;
        var row = new object?[reader.Count];
        Go(
            source,
            () =>
            {
                read++;
                if (reader.Read(row) is { } reject)
                {
                    if (rejected++ < Shown)
                        rejects.Add(new(source.LineOf(read), reject.Reason));
                }
                else if (rows.Count < Shown)
                {
                    rows.Add([.. row.Select(cell => cell is null ? null : Cells.Text(cell))]);
                }
            },
            cancel
        );
        return (rows, rejects, rejected);
    }

    // Whether it came to the end.
    static bool Go(RowSource source, Action row, CancellationToken cancel)
    {
        for (var i = 0; i < MostRows; i++)
        {
            cancel.ThrowIfCancellationRequested();
            if (!source.Read())
                return true;
            row();
        }
        return false;
    }

    static RowSource Open(string name, string path, LoadFrom from) =>
        RowSources.OpenFile(new OpenText(name, path, from), []);
}
