using GateChain.Engine.Sharing;
using GateChain.Kinds.Contract;

namespace GateChain.Engine.Live;

/// <summary>How far the attempts of runs have got, wherever the runs are. Thread-safe.</summary>
public sealed class ProgressReader
{
    const string Question = "progress";

    readonly ProgressBoard _board;
    readonly Shared? _shared;
    readonly Func<long, bool> _isHere;

    internal ProgressReader(ProgressBoard board, Shared? shared, Func<long, bool> isHere)
    {
        (_board, _shared, _isHere) = (board, shared, isHere);
        shared?.Answers.Add<long, IReadOnlyDictionary<string, AttemptProgress>>(Question, run =>
            Task.FromResult(board.Of(run))
        );
    }

    /// <summary>The steps of a run that told something, by path; none while its node does not answer.</summary>
    public async Task<IReadOnlyDictionary<string, AttemptProgress>> OfAsync(long run)
    {
        if (_shared is null || _isHere(run))
            return _board.Of(run);
        var owner = await _shared.Store.Nodes.OwnerAsync(run).ConfigureAwait(false);
        if (owner is null || owner == _shared.Link.Id)
            return _board.Of(run);
        try
        {
            return await NodeAnswers
                .AskAsync<long, IReadOnlyDictionary<string, AttemptProgress>>(_shared.Link, owner, Question, run)
                .ConfigureAwait(false);
        }
        catch (NodeSilentException)
        {
            return new Dictionary<string, AttemptProgress>();
        }
    }
}
