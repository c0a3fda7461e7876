using GateChain.Core.Identity;
using GateChain.Engine.Lineage;
using GateChain.Engine.Reading;
using GateChain.Storage;
using Microsoft.Extensions.Logging;

namespace GateChain.Engine;

public sealed partial class ChainEngine
{
    RunTraces? _traces;
    LineageSender? _lineage;

    /// <summary>Which data chains read and write.</summary>
    public DataFlows Data { get; }

    // And who tells of runs to other systems.
    DataFlows DataOf(ICatalogue catalogue, ILogger logger)
    {
        _traces = new(Reader, Feed, logger);
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
        _traces?.Dispose();
        _lineage?.Dispose();
    }
}
