using GateChain.Core.Running;

namespace GateChain.Core.Rehearsing;

/// <summary>
/// In which order a rehearsal answers what is asked of the world: as it came, or as it was in the run that is played
/// again. Used by one thread.
/// </summary>
sealed class AnswerOrder
{
    readonly DateTimeOffset _start;
    readonly Dictionary<(string Path, bool IsLook), Queue<(int Place, TimeSpan After)>> _known = [];

    public AnswerOrder(RehearsalAssumptions wish)
    {
        _start = wish.At;
        foreach (var (place, answer) in wish.Answers.Index())
        {
            if (!_known.TryGetValue((answer.Path, answer.IsLook), out var queue))
                _known[(answer.Path, answer.IsLook)] = queue = new();
            queue.Enqueue((place, answer.After));
        }
    }

    /// <summary>What is answered next, and when; null when time comes first, or nothing is asked.</summary>
    /// <param name="asked">What is asked; what is taken goes from it.</param>
    /// <param name="due">The next moment that the run waits for; null for none.</param>
    public (Effect Work, DateTimeOffset At)? Take(List<Effect> asked, DateTimeOffset? due)
    {
        if (asked.Count == 0)
            return null;
        // As it came is what most want.
        var (best, place, after) = (0, -1, TimeSpan.Zero);
        if (_known.Count > 0)
        {
            place = int.MaxValue;
            for (var i = 0; i < asked.Count && place >= 0; i++)
            {
                var at =
                    IsAtOnce(asked[i]) || !_known.TryGetValue(KeyOf(asked[i]), out var queue) || queue.Count == 0
                        ? (-1, TimeSpan.Zero)
                        : queue.Peek();
                if (at.Item1 < place)
                    (best, place, after) = (i, at.Item1, at.Item2);
            }
        }
        var work = asked[best];
        if (place >= 0 && due is { } next && next < _start + after)
            return null;
        asked.RemoveAt(best);
        if (place >= 0)
            _known[KeyOf(work)].Dequeue();
        return (work, place < 0 ? DateTimeOffset.MinValue : _start + after);
    }

    static bool IsAtOnce(Effect work) =>
        work.Form is not (EffectKind.Attempt or EffectKind.Probes or EffectKind.Child or EffectKind.Runs);

    static (string, bool) KeyOf(Effect work) => (work.Step.Path, work.Form == EffectKind.Probes);
}
