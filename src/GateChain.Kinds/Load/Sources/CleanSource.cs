using GateChain.Kinds.Data;

namespace GateChain.Kinds.Load.Sources;

/// <summary>A source whose texts are taken off their blanks, and are nothing where they mean nothing.</summary>
sealed class CleanSource(RowSource source, LoadText rules) : RowSource
{
    readonly HashSet<string> _empty = [.. rules.Empty];

    /// <summary>The source, or it with its texts cleaned, where that is asked for.</summary>
    public static RowSource Of(RowSource source, LoadText rules) =>
        rules.Trim || rules.Empty.Count > 0 ? new CleanSource(source, rules) : source;

    public override object? this[int column]
    {
        get
        {
            var cell = source[column];
            if (cell is not string text)
                return cell;
            if (rules.Trim)
                text = text.Trim();
            return _empty.Contains(text) ? null : text;
        }
    }

    public override string What => source.What;
    public override bool IsSeveral => source.IsSeveral;
    public override IReadOnlyList<string> Names => source.Names;
    public override bool IsSteady => source.IsSteady;
    public override string Fingerprint => source.Fingerprint;
    public override string RowWord => source.RowWord;

    public override long LineOf(long row) => source.LineOf(row);

    public override bool Read() => source.Read();

    public override Reject? Broken => source.Broken;
    public override string? Hint => source.Hint;

    public override CellType? TypeOf(int column) => source.TypeOf(column);

    public override string? OwnTypeOf(int column, string database) => source.OwnTypeOf(column, database);

    public override void MustBeUnchanged() => source.MustBeUnchanged();

    public override int FieldCount => source.FieldCount;
    public override double? Share => source.Share;
    public override long? Bytes => source.Bytes;

    // As they stand there: who fixes them wants to find them again.
    public override string?[] Fields() => source.Fields();

    public override void Dispose() => source.Dispose();
}
