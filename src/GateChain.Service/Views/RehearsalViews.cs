using GateChain.Client;
using GateChain.Core.Chains;
using GateChain.Core.Rehearsing;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Rehearsals;
using GateChain.Engine.Workspaces;

namespace GateChain.Service.Views;

/// <summary>Rehearsals as the API shows them; the command line rehearses files with it, without a service.</summary>
public static class RehearsalViews
{
    const int MaxWays = 200;

    /// <summary>Plays a chain as it is asked for.</summary>
    /// <param name="chain">The chain.</param>
    /// <param name="chains">Gives the chains that are called; null for one that is not there.</param>
    /// <param name="request">What is asked for.</param>
    /// <param name="profilesOf">What a chain can choose its profile from, by the chain's name.</param>
    /// <param name="kept">What the chain has kept from earlier runs, by variable.</param>
    /// <param name="at">The moment it plays at.</param>
    /// <param name="known">How the steps of an earlier run ended, which they do again.</param>
    /// <exception cref="RefusedException">Something is named that is not there, is missing, or does not fit its
    /// type.</exception>
    /// <param name="cancel">Cuts it when it has taken long enough.</param>
    public static RehearsalResult Rehearse(
        Chain chain,
        Func<CalledChain, Chain?> chains,
        RehearsalRequest request,
        Func<string, Profiles> profilesOf,
        Value kept,
        DateTimeOffset at,
        IReadOnlyList<KnownStep>? known = null,
        CancellationToken cancel = default
    )
    {
        if (request.Ways is < 0 or > MaxWays)
            throw new RefusedException(RefusalKind.Invalid, $"ways is 0 to {MaxWays}");
        var order = new RehearsalOptions(
            JsonViews.Values(request.Params),
            JsonViews.Values(request.Set),
            profilesOf(chain.Name).Choose(request.Profile),
            request.Fail ?? [],
            JsonViews.Values(request.Give),
            (caller, called, values) => profilesOf(called).ForCalled(values, request.Profile, profilesOf(caller))
        )
        {
            Kept = kept,
            Known = known ?? [],
        };
        var wish = order.Read(chain, chains, at);
        var rehearsal = Rehearsal.Play(chain, wish, chains, cancel);
        var ways = request.Ways == 0 ? new([], IsCut: false) : Ways.Of(chain, wish, chains, request.Ways, cancel);
        return new(
            RunViews.Detail(rehearsal.State, rehearsal.Journal.Count, _ => null),
            [.. Trace.Of(rehearsal).Select(l => new TraceInfo(l.What, l.Path, l.Text, l.Outcome))],
            Children(rehearsal),
            rehearsal.IsCut,
            [
                .. ways.Found.Select(w => new WayInfo(
                    w.Failing,
                    w.Rehearsal.State.Word,
                    w.Rehearsal.State.Error?.Message,
                    [.. w.Steps.Select(s => new WayStep(s.Address, s.Words))]
                )),
            ],
            ways.IsCut
        );
    }

    static IReadOnlyList<ChildRehearsal> Children(Rehearsal rehearsal) =>
        [
            .. rehearsal.Children.Select(c => new ChildRehearsal(
                c.Key.Call,
                c.Key.Attempt,
                RunViews.Detail(c.Value.State, c.Value.Journal.Count, _ => null),
                Children(c.Value)
            )),
        ];
}
