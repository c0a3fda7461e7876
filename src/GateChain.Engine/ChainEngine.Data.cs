using GateChain.Core.Identity;
using GateChain.Engine.Lineage;
using GateChain.Engine.Live;
using GateChain.Engine.Reading;
using GateChain.Engine.Replays;
using GateChain.Kinds.Connections;
using GateChain.Storage;
using Microsoft.Extensions.Logging;

namespace GateChain.Engine;

public sealed partial class ChainEngine
{
    RunTraces? _traces;
    RunLog? _runLog;
    LineageSender? _lineage;

    /// <summary>Which data chains read and write.</summary>
    public DataFlows Data { get; }

    /// <summary>Runs as they were at any moment.</summary>
    public RunMoments Moments { get; }

    /// <summary>What hangs on chains.</summary>
    public Consequences Consequences { get; }

    /// <summary>Plays past runs again under another content.</summary>
    public Replayer Replayer { get; }

    IConnections ConnectionsOf(Area area) => Workspace.In(area).Connections;

    ConnectionUse UseOf(Area area) => _options.Folders.For(_options.WorkFolder, Secrets.In(area));

    // And who tells of runs to other systems.
    DataFlows DataOf(ICatalogue catalogue, ILogger logger)
    {
        _traces = new(Reader, Feed, logger);
        _runLog = new(Feed, logger);
        var data = new DataFlows(catalogue, Chains, Reader, Workspace, _options.WorkFolder);
        if (_options.Lineage is { } to)
        {
            var token = Secrets.In(Area.Root);
            _lineage = new(to, new(to.Namespace, to.Version), data, () => token.Find(LineageSender.Secret), logger);
            Outbox.Add(LineageSender.Consumer, _lineage.HandleAsync);
        }
        return data;
    }

    void DisposeData()
    {
        Moments.Dispose();
        _traces?.Dispose();
        _runLog?.Dispose();
        _lineage?.Dispose();
    }
}
