using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.FileServers;
using GateChain.Kinds.Load.Modes;

namespace GateChain.Kinds.Load.Targets;

/// <summary>A file that is brought to a server or bucket when it is whole.</summary>
/// <param name="inner">What writes it here.</param>
/// <param name="here">Its full path here.</param>
/// <param name="there">Its path there.</param>
/// <param name="connection">Where to.</param>
sealed class ServerTarget(
    LoadTarget inner,
    string here,
    string there,
    string connection,
    AttemptContext context,
    CancellationToken cancel
) : LoadTarget
{
    /// <summary>Where a file is written before it is brought.</summary>
    public static string PathFor(AttemptContext context, string there) =>
        Path.Combine(context.StepFolder, "to-bring", there[(there.LastIndexOf('/') + 1)..]);

    public override (Value? Done, string? Progress) Begin(string fingerprint) => inner.Begin(fingerprint);

    public override void Add(RowBatch rows, Rejects rejects) => inner.Add(rows, rejects);

    public override void Checkpoint(string progress) => inner.Checkpoint(progress);

    public override Value? Finish(Rejects rejects, Func<RowCounts, Value> outputs)
    {
        var result = inner.Finish(rejects, outputs);
        if (result is null)
            return null;
        using var server = FileServer.Open(context.Connections.Require(connection), context.Secrets, cancel);
        server.Put(new(here), there, overwrite: true, context);
        context.Log.Note($"brought to {there} on {connection}");
        return result;
    }

    public override void Abandon() => inner.Abandon();

    public override void Dispose()
    {
        inner.Dispose();
        if (File.Exists(here))
            File.Delete(here);
    }
}
