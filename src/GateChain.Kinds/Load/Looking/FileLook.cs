using GateChain.Kinds.Contract;
using GateChain.Kinds.Load.Sources;

namespace GateChain.Kinds.Load.Looking;

/// <summary>A column as a look has found it.</summary>
/// <param name="Name">Its name; <c>column1</c> and so on where the file has none.</param>
/// <param name="Type">What its values can be read as; null for texts.</param>
/// <param name="Format">How dates or times are written; null for the usual way.</param>
/// <param name="Empty">In how many rows it has nothing.</param>
/// <param name="Examples">Some of its values, at most three.</param>
public sealed record FoundColumn(string Name, string? Type, string? Format, long Empty, IReadOnlyList<string> Examples);

/// <summary>What a file is like, before anything is loaded of it.</summary>
/// <param name="From">The settings that read it, as the step has them in YAML under <c>from</c>.</param>
/// <param name="Columns">Its columns, as under <c>columns</c>.</param>
/// <param name="Found">What was found, in sentences.</param>
/// <param name="Header">The columns one by one.</param>
/// <param name="Sample">What a load with these settings would make of its first rows.</param>
public sealed record FileLook(
    string From,
    string Columns,
    IReadOnlyList<string> Found,
    IReadOnlyList<FoundColumn> Header,
    RowSample Sample
)
{
    /// <summary>The most rows that are looked at.</summary>
    public const int MostRows = 10_000;

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
        using (var source = Open(name, path, guess.From))
        {
            types.AddRange(source.Names.Select(_ => new TypeGuess()));
            RowSample.Go(
                source,
                MostRows,
                _ =>
                {
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
            RowSample.Of(settings, again, MostRows, cancel)
        );
    }

    static RowSource Open(string name, string path, LoadFrom from) =>
        RowSources.OpenFile(new OpenText(name, path, from), []);
}
