using System.Runtime.InteropServices;

namespace GateChain.Storage.Sqlite;

/// <summary>
/// The newest decisions of all runs. A transaction adds its decisions as one block, which costs far less than a row for
/// each. When the blocks have grown to some megabytes, they are sorted into the journal, by run, many decisions to a
/// row; a share with every transaction, so that nobody has to wait for all of it. The lines of runs in lists go the
/// same way. Knows who may write to which run: epochs change only when nothing is left here. Used by the writer's
/// thread only, within its transactions.
/// </summary>
sealed class WriteBuffer(Statements statements, UnflushedRuns runs)
{
    /// <summary>
    /// So many bytes are sorted in together. More would put more decisions of a run into one row, and make reading
    /// slower.
    /// </summary>
    const int Most = 4 << 20;

    // Of what is being sorted in, a transaction does at least so many bytes, or twice as many as it adds.
    const int LeastShare = 1 << 16;

    // A long run is read row by row: its rows stay small.
    const int RowSize = 1 << 16;

    /// <summary>Decisions that lie in blocks.</summary>
    sealed class Generation
    {
        public readonly ByteBuffer Blocks = new();
        public readonly List<JournalBlocks.Entry> Entries = [];

        /// <summary>How many entries are sorted in.</summary>
        public int Done;

        /// <summary>The newest of its blocks, once it does not grow any more.</summary>
        public long LastBlock;

        public void Clear()
        {
            Blocks.Clear();
            Entries.Clear();
            (Done, LastBlock) = (0, 0);
        }
    }

    /// <summary>What is known of a run that has decisions in the buffer, until they are sorted in.</summary>
    struct Owner
    {
        public long Epoch;
        public long LastSeq;

        /// <summary>Its line in lists, when that is not in the table yet.</summary>
        public StoredRun? Stored;

        public int Generation;
    }

    readonly Dictionary<long, Owner> _owners = [];

    // What runs that are not in their table yet were started for.
    readonly HashSet<string> _origins = [];
    readonly ByteBuffer _row = new();

    // Where blocks lie, in the generation that was loaded, that are not what was written.
    readonly List<(int From, int To)> _damaged = [];
    Generation _growing = new(),
        _sorted = new();
    int _number,
        _stored;
    long? _version;

    /// <summary>A transaction has begun. What somebody else wrote meanwhile is taken into account.</summary>
    public void Begin()
    {
        var version = statements.DataVersion();
        if (_version != version)
            Load();
        _version = version;
    }

    /// <summary>What is on disk is not known any more: a transaction was taken back.</summary>
    public void Forget()
    {
        _version = null;
        runs.Forget();
    }

    void Load()
    {
        _growing.Clear();
        _sorted.Clear();
        _owners.Clear();
        _origins.Clear();
        runs.LeaveAll();
        var blocks = _growing.Blocks;
        _damaged.Clear();
        JournalReader.ReadWriteBuffer(statements.Db, (block, isDamaged) =>
        {
            if (isDamaged)
                _damaged.Add((blocks.Length, blocks.Length + block.Length));
            block.CopyTo(blocks.Take(block.Length));
        });
        _stored = blocks.Length;
        foreach (var entry in JournalBlocks.Read(blocks.From(0)))
        {
            // Those that are sorted in already are left out.
            ref var owner = ref OwnerOf(entry.Run);
            if (entry.Seq <= owner.LastSeq)
                continue;
            if (owner.Epoch == 0)
                owner.Epoch = entry.Epoch;
            owner.LastSeq = entry.Seq;
            _growing.Entries.Add(entry);
            if (entry.HeadLength > 0)
                SetStoredRun(ref owner, StoredRunJson.Read(blocks.Slice(entry.HeadStart, entry.HeadLength)));
        }
    }

    ref Owner OwnerOf(long run)
    {
        ref var owner = ref CollectionsMarshal.GetValueRefOrAddDefault(_owners, run, out var known);
        if (!known && statements.EpochOf(run) is > 0 and var epoch)
            (owner.Epoch, owner.LastSeq) = (epoch, statements.LastSeq(run));
        owner.Generation = _number;
        return ref owner;
    }

    void SetStoredRun(ref Owner owner, StoredRun stored)
    {
        owner.Stored = stored;
        runs.Change(stored);
        if (stored.OriginKey is { } key)
            _origins.Add(key);
    }

    bool IsTaken(string? origin) => origin is not null && (_origins.Contains(origin) || statements.HasOrigin(origin));

    /// <summary>Adds a decision, unless the run has another owner, or its number or occasion is taken.</summary>
    public AppendOutcome Add(JournalAppend append)
    {
        ref var owner = ref OwnerOf(append.Run);
        // The first row registers the run.
        var first = append is { Seq: 1, Stored: not null } && owner.Epoch == 0;
        if (!first && (owner.Epoch != append.Epoch || append.Seq <= owner.LastSeq))
            return AppendOutcome.Fenced;
        if ((first && IsTaken(append.Stored!.OriginKey)) || append.Extras?.Keys.Any(statements.IsTaken) == true)
            return AppendOutcome.Taken;
        if (append.Extras?.Fire is { } fire && statements.Fires.IsTaken(fire))
            return AppendOutcome.Taken;
        (owner.Epoch, owner.LastSeq) = (append.Epoch, append.Seq);
        if (append.Extras is { } extras)
            statements.Add(extras, append.Run);
        if (append.Stored is { } stored)
        {
            SetStoredRun(ref owner, stored);
            foreach (var kind in append.Notifications)
                statements.AddNotification(stored.Id, append.Seq, stored.Chain, kind, stored.State);
        }
        _growing.Entries.Add(
            JournalBlocks.Add(_growing.Blocks, append, append.Stored is null ? [] : StoredRunJson.Write(append.Stored))
        );
        return AppendOutcome.Written;
    }

    /// <summary>Writes what was added in this transaction.</summary>
    public void End()
    {
        var added = _growing.Blocks.Length - _stored;
        if (added == 0)
            return;
        statements.AddBlock(_growing.Blocks.From(_stored));
        var block = statements.LastAdded;
        _stored = _growing.Blocks.Length;
        if (_stored > Most)
        {
            Compact(long.MaxValue);
            Turn(block);
        }
        Compact(Math.Max(LeastShare, 2L * added));
    }

    /// <summary>Sorts everything into the journal, in this transaction.</summary>
    public void SortAllIn()
    {
        Compact(long.MaxValue);
        Turn(lastBlock: long.MaxValue);
        Compact(long.MaxValue);
    }

    // What has grown is sorted in from now on.
    void Turn(long lastBlock)
    {
        (_growing, _sorted) = (_sorted, _growing);
        _sorted.LastBlock = lastBlock;
        _sorted.Entries.Sort(static (a, b) => a.Run != b.Run ? a.Run.CompareTo(b.Run) : a.Seq.CompareTo(b.Seq));
        _stored = 0;
        _number++;
    }

    void Compact(long share)
    {
        if (_sorted.LastBlock == 0)
            return;
        while (_sorted.Done < _sorted.Entries.Count && share > 0)
            share -= WriteRow();
        if (_sorted.Done < _sorted.Entries.Count)
            return;
        statements.RemoveBlocks(_sorted.LastBlock);
        _sorted.Clear();
        _damaged.Clear();
        foreach (var (run, owner) in _owners)
        {
            if (owner.Generation != _number)
                _owners.Remove(run);
        }
    }

    // One row: decisions of one run that follow each other. Gives its size.
    int WriteRow()
    {
        var (entries, blocks, first) = (_sorted.Entries, _sorted.Blocks, _sorted.Done);
        var (run, seq) = (entries[first].Run, entries[first].Seq);
        WriteStoredRun(run);
        var (next, size) = (first + 1, entries[first].Length);
        for (
            ;
            next < entries.Count
                && size < RowSize
                && entries[next].Run == run
                && entries[next].Seq == seq + (next - first);
            next++
        )
        {
            size += entries[next].Length;
        }
        ReadOnlySpan<byte> Body(int i) => blocks.Slice(entries[i].Start, entries[i].Length);
        // What is damaged stays told so, and keeps nobody else from going on.
        var isDamaged =
            _damaged.Count > 0
            && Enumerable
                .Range(first, next - first)
                .Any(i => _damaged.Any(d => entries[i].Start >= d.From && entries[i].Start < d.To));
        if (next == first + 1)
        {
            statements.AddRow(run, seq, 1, Body(first), isDamaged);
        }
        else
        {
            _row.Clear();
            for (var i = first; i < next; i++)
                JournalBlocks.Pack(_row, Body(i));
            statements.AddRow(run, seq + (next - first) - 1, next - first, _row.From(0), isDamaged);
        }
        _sorted.Done = next;
        return size;
    }

    // The newest line there is: it may belong to a decision that is sorted in later.
    void WriteStoredRun(long run)
    {
        ref var owner = ref CollectionsMarshal.GetValueRefOrNullRef(_owners, run);
        if (owner.Stored is not { } stored)
            return;
        statements.Write(stored, owner.Epoch);
        runs.Leave(run);
        if (stored.OriginKey is { } key)
            _origins.Remove(key);
        owner.Stored = null;
    }
}
