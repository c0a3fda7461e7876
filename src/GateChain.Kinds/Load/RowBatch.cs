namespace GateChain.Kinds.Load;

/// <summary>
/// Rows on their way to the target, with the lines they stood in. Bounded by their number and by their size. Used by
/// one thread.
/// </summary>
/// <param name="columns">How many cells a row has.</param>
sealed class RowBatch(int columns)
{
    // Rows may have long texts: the memory is for so many characters, however many rows they are.
    const long MostSize = 16 << 20;

    readonly List<object?[]> _rows = [];
    readonly List<long> _lines = [];
    readonly List<(long Line, Reject Reject, string?[] Fields)> _rejects = [];
    long _size;

    public int Count { get; private set; }

    /// <summary>Whether the rows are as large as may be.</summary>
    public bool IsHeavy => _size > MostSize;

    /// <summary>The row to fill next; it is in the batch once it is kept.</summary>
    public object?[] Next
    {
        get
        {
            if (Count == _rows.Count)
                _rows.Add(new object?[columns]);
            return _rows[Count];
        }
    }

    public void Keep(long line)
    {
        foreach (var cell in Next)
        {
            _size += cell switch
            {
                string text => text.Length,
                byte[] bytes => bytes.Length,
                _ => 8,
            };
        }
        if (Count == _lines.Count)
            _lines.Add(line);
        else
            _lines[Count] = line;
        Count++;
    }

    /// <summary>A row of the source that does not go.</summary>
    public void Reject(long line, Reject reject, string?[] fields)
    {
        foreach (var field in fields)
            _size += field?.Length ?? 0;
        _rejects.Add((line, reject, fields));
    }

    /// <summary>The rows of the source between those that are here that do not go.</summary>
    public IReadOnlyList<(long Line, Reject Reject, string?[] Fields)> Rejects => _rejects;

    /// <summary>The file, or what else, that all of its rows stand in.</summary>
    public string In { get; set; } = "";

    /// <summary>How many rows of the source were read when this was filled.</summary>
    public long Read { get; set; }

    /// <summary>Whether the source ended with it.</summary>
    public bool IsLast { get; set; }

    public object?[] Row(int at) => _rows[at];

    public long Line(int at) => _lines[at];

    public void Clear()
    {
        (Count, _size, IsLast) = (0, 0, true);
        _rejects.Clear();
    }
}
