using System.Globalization;
using GateChain.Core.Chains;
using GateChain.Core.Expressions;
using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Storage;

namespace GateChain.Engine.Runs;

/// <summary>
/// How far steps have got in what they read, for each chain and profile by name. It is written with the decision that
/// settles the step, whatever becomes of its run. Thread-safe.
/// </summary>
/// <param name="store">Where it is kept.</param>
/// <param name="time">The clock.</param>
public sealed class PositionService(IKeptValues store, TimeProvider time)
{
    /// <summary>Where a step begins; null for the start. Reads the disk.</summary>
    internal Value? Find(string chain, string? profile, string name) =>
        store.FindPositionAsync(chain, profile ?? "", name).AsTask().GetAwaiter().GetResult() is { } position
            ? Read(position)
            : null;

    /// <summary>The value of one.</summary>
    public static Value Read(KeptPosition position) => ValueJson.TryParse(position.Content, exact: true) ?? Value.Null;

    /// <summary>What is written with a decision: the positions of a step that it settles well.</summary>
    internal static IReadOnlyList<KeptPosition> Of(RunState run, RunInput input, IReadOnlyList<RunEvent> events) =>
        input is AttemptEndedInput { Result.Positions: { Count: > 0 } reached } ended
        && run is { Try: null, KeptVersion: not KeptStart.WritesNothing }
        && events.Any(e => e is StepSettled { Outcome: Outcome.Succeeded } settled && settled.Step == ended.Step)
            ?
            [
                .. reached.Select(p => new KeptPosition(
                    run.Chain.Name,
                    run.ProfileName ?? "",
                    p.Key,
                    ValueJson.ToText(p.Value, plain: false)
                )
                {
                    Run = run.Id,
                    Step = ended.Step,
                    At = input.At,
                }),
            ]
            : [];

    /// <summary>Those of a chain, by profile and name.</summary>
    public ValueTask<IReadOnlyList<KeptPosition>> ListAsync(string chain) => store.PositionsAsync(chain);

    /// <summary>Sets one: the next step that goes by it begins there.</summary>
    /// <param name="chain">The chain.</param>
    /// <param name="profile">The profile; null for runs without a name.</param>
    /// <param name="name">The name that it is kept under.</param>
    /// <param name="value">A number, a time or a text; null to begin at the start.</param>
    /// <param name="by">Who asks.</param>
    /// <exception cref="RefusedException">There is none to forget, or the value is none of these.</exception>
    /// <exception cref="StorageException">It could not be written.</exception>
    public async Task SetAsync(string chain, string? profile, string name, Value value, Actor by)
    {
        var (key, now) = (profile ?? "", time.GetUtcNow());
        if (value.Kind == ValueKind.Null)
        {
            if (await store.FindPositionAsync(chain, key, name).ConfigureAwait(false) is null)
            {
                throw new RefusedException(
                    RefusalKind.NotFound,
                    $"“{chain}” keeps no position “{name}”{Nearest.Hint(name, await NamesAsync(chain, key))}"
                );
            }
            await store
                .ForgetPositionAsync(chain, key, name, new(now, by, "keep", $"chain {chain}", $"forget {name}"))
                .ConfigureAwait(false);
            return;
        }
        value = Meant(value);
        if (
            value.Kind
            is not (ValueKind.Int or ValueKind.Double or ValueKind.Decimal or ValueKind.Timestamp or ValueKind.String)
        )
        {
            throw new RefusedException(
                RefusalKind.Invalid,
                $"“{name}” has to be a number, a time or a text, and this is {value.KindWord}"
            );
        }
        await store
            .SetPositionAsync(
                new(chain, key, name, ValueJson.ToText(value, plain: false)) { By = by.Name, At = now },
                new(now, by, "keep", $"chain {chain}", $"set {name}")
            )
            .ConfigureAwait(false);
    }

    async Task<IEnumerable<string>> NamesAsync(string chain, string profile) =>
        (await store.PositionsAsync(chain).ConfigureAwait(false)).Where(p => p.Profile == profile).Select(p => p.Name);

    // People write texts.
    static Value Meant(Value value)
    {
        if (value.Kind != ValueKind.String)
            return value;
        var text = value.AsString;
        if (long.TryParse(text, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var whole))
            return Value.Int(whole);
        if (Decimal38.Parse(text) is { } exact)
            return Value.Decimal(exact);
        return TimeText.ParseTimestamp(text) ?? value;
    }
}
