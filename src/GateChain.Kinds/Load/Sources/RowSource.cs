using GateChain.Kinds.Contract;
using GateChain.Kinds.Data;

namespace GateChain.Kinds.Load.Sources;

/// <summary>Rows one after the other; no more than one of them is in memory. Used by one thread.</summary>
abstract class RowSource : IDisposable
{
    /// <summary>What it is, for sentences: a path, or a query of a connection.</summary>
    public abstract string What { get; }

    /// <summary>Whether it is several files: <see cref="What"/> is the one at hand.</summary>
    public virtual bool IsSeveral => false;

    /// <summary>The names of its columns.</summary>
    public abstract IReadOnlyList<string> Names { get; }

    /// <summary>
    /// Whether rows come in the same order whenever it is read, so that reading can continue behind the last one.
    /// </summary>
    public abstract bool IsSteady { get; }

    /// <summary>Another text whenever what is read may be something else.</summary>
    public abstract string Fingerprint { get; }

    /// <summary>What is called a row in sentences: a line of the file, mostly.</summary>
    public virtual string RowWord => "row";

    /// <summary>The place of a row in the source, as a person counts.</summary>
    /// <param name="row">The number of the row, from 1.</param>
    public virtual long LineOf(long row) => row;

    /// <summary>How far loads have got in it; null for a source that is always read as a whole.</summary>
    public virtual Position? Position => null;

    public abstract bool Read();

    /// <summary>Why the row at hand can't be read; null when it can. Reading continues behind it.</summary>
    public virtual Reject? Broken => null;

    /// <summary>Why the row at hand is none of these columns; null when it is one.</summary>
    public Reject? Misfit =>
        Broken
        ?? (
            FieldCount > Names.Count
            && Enumerable.Range(Names.Count, FieldCount - Names.Count).Any(i => this[i] is not null)
                ? new($"the {RowWord} has {FieldCount} fields, and the header {Names.Count}")
                : null
        );

    /// <summary>What helps against rows that can't be read; null for nothing.</summary>
    public virtual string? Hint => null;

    /// <summary>What the source says of a column; null where it says nothing, as text files do.</summary>
    public virtual CellType? TypeOf(int column) => null;

    /// <summary>
    /// What databases of a type call the type of a column themselves; null where the source is none of them, or does
    /// not say.
    /// </summary>
    /// <param name="database">The type of the database that asks.</param>
    public virtual string? OwnTypeOf(int column, string database) => null;

    /// <summary>Fails when what was read has changed meanwhile.</summary>
    /// <exception cref="StepFailedException">It has.</exception>
    public virtual void MustBeUnchanged() { }

    /// <summary>How many fields the row at hand has.</summary>
    public virtual int FieldCount => Names.Count;

    /// <summary>A cell of the row at hand; null for nothing. An empty text is a text.</summary>
    public abstract object? this[int column] { get; }

    /// <summary>The fields of the row at hand as texts, for whoever fixes it.</summary>
    public virtual string?[] Fields() => [.. Enumerable.Range(0, FieldCount).Select(Field)];

    string? Field(int column)
    {
        try
        {
            return this[column] is { } cell ? Cells.Text(cell) : null;
        }
        catch (Exception e) when (e is FormatException or OverflowException or InvalidCastException)
        {
            return null;
        }
    }

    /// <summary>How much of it is read, 0 to 1; null when nobody can say.</summary>
    public virtual double? Share => null;

    /// <summary>How many bytes of it are read; null when nobody can say.</summary>
    public virtual long? Bytes => null;

    public abstract void Dispose();
}
