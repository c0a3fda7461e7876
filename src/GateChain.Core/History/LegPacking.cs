namespace GateChain.Core.History;

/// <summary>
/// The steps of a leg in few bytes: a year of runs is looked through at once. Addresses stand apart, since they are the
/// same in nearly all legs of a chain. Numbers are written in groups of seven bits, the lowest first.
/// </summary>
public static class LegPacking
{
    // The order never changes: its places are on disk.
    static readonly string[] States = ["skipped", "succeeded", "stopped", "failed"];

    const int HasMany = 4,
        HasWaits = 8,
        HasRows = 16,
        HasRun = 32;

    /// <summary>All but the addresses.</summary>
    public static byte[] Pack(IReadOnlyList<StepHistory> steps)
    {
        var bytes = new List<byte>(steps.Count * 8);
        foreach (var step in steps)
        {
            var isMany =
                step.Count > 1 || step.Failed != (step.State == "failed" ? step.Count : 0) || step.Attempts > 1;
            var waits = step.Held > 0 || step.Queued > 0 || step.Rested > 0;
            var rows = step.Read is not null || step.Written is not null || step.Rejected is not null;
            bytes.Add(
                (byte)(
                    Math.Max(0, Array.IndexOf(States, step.State))
                    | (isMany ? HasMany : 0)
                    | (waits ? HasWaits : 0)
                    | (rows ? HasRows : 0)
                    | (step.Count > 0 ? HasRun : 0)
                )
            );
            if (step.Count == 0)
                continue;
            if (isMany)
                Put(bytes, step.Count, step.Failed);
            Put(bytes, step.Attempts, step.Begin, step.Span, step.Work);
            if (waits)
                Put(bytes, step.Held, step.Queued, step.Rested);
            // One more, so that nothing said and none are told apart.
            if (rows)
                Put(bytes, step.Read + 1 ?? 0, step.Written + 1 ?? 0, step.Rejected + 1 ?? 0);
        }
        return [.. bytes];
    }

    /// <summary>The steps again.</summary>
    /// <exception cref="FormatException">The bytes are not what was packed for these addresses.</exception>
    public static IReadOnlyList<StepHistory> Unpack(IReadOnlyList<string> addresses, ReadOnlySpan<byte> bytes)
    {
        var steps = new StepHistory[addresses.Count];
        for (var i = 0; i < steps.Length; i++)
        {
            var flags = Take(ref bytes);
            if (flags > 63)
                throw new FormatException("history that can't be read");
            var state = States[flags & 3];
            steps[i] = new(addresses[i], state);
            if ((flags & HasRun) == 0)
                continue;
            var (count, failed) =
                (flags & HasMany) != 0 ? (Take(ref bytes), Take(ref bytes)) : (1, state == "failed" ? 1 : 0);
            var (attempts, begin, span, work) = (Take(ref bytes), Take(ref bytes), Take(ref bytes), Take(ref bytes));
            var (held, queued, rested) =
                (flags & HasWaits) != 0 ? (Take(ref bytes), Take(ref bytes), Take(ref bytes)) : (0, 0, 0);
            var (read, written, rejected) =
                (flags & HasRows) != 0 ? (Rows(ref bytes), Rows(ref bytes), Rows(ref bytes)) : (null, null, null);
            steps[i] = steps[i] with
            {
                Count = (int)count,
                Failed = (int)failed,
                Attempts = (int)attempts,
                Begin = begin,
                Span = span,
                Work = work,
                Held = held,
                Queued = queued,
                Rested = rested,
                Read = read,
                Written = written,
                Rejected = rejected,
            };
        }
        return bytes.IsEmpty ? steps : throw new FormatException("history that can't be read");
    }

    static long? Rows(ref ReadOnlySpan<byte> bytes) => Take(ref bytes) is > 0 and var rows ? rows - 1 : null;

    static void Put(List<byte> bytes, params ReadOnlySpan<long> numbers)
    {
        foreach (var number in numbers)
        {
            var left = (ulong)Math.Max(0, number);
            for (; left > 127; left >>= 7)
                bytes.Add((byte)(left & 127 | 128));
            bytes.Add((byte)left);
        }
    }

    static long Take(ref ReadOnlySpan<byte> bytes)
    {
        ulong number = 0;
        for (var shift = 0; shift < 64; shift += 7)
        {
            if (bytes.IsEmpty)
                break;
            var next = bytes[0];
            bytes = bytes[1..];
            number |= (ulong)(next & 127) << shift;
            if (next < 128)
                return (long)number;
        }
        throw new FormatException("history that can't be read");
    }
}
