using System.Text.Json;
using GateChain.Core.Chains;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Running;

/// <summary>
/// Journal rows: what is written quickly is what the general serializer would have written, and comes back as it was.
/// </summary>
public sealed class EventRowTests
{
    static readonly DateTimeOffset At = new(2026, 3, 9, 4, 30, 0, 123, TimeSpan.FromHours(2));

    static readonly Value Odd = Value.Map(
        (
            "a \"b\" ü 😀 <&>",
            Value.List([
                Value.Null,
                Value.Double(1),
                Value.Uint(3),
                Value.Timestamp(At.UtcDateTime),
                Value.Bytes([1, 2]),
            ])
        )
    );

    public static TheoryData<string> Names => [.. Events.Select(e => e.Name)];

    static readonly (string Name, RunEvent Event)[] Events =
    [
        ("started", new AttemptStarted("a[1]/b", 3, Odd, null)),
        ("started with due", new AttemptStarted("a", 1, Value.EmptyMap, At)),
        ("settled", new StepSettled("a", Outcome.Succeeded, Odd)),
        ("stopped", new StepSettled("é\u0001", Outcome.Stopped, Value.EmptyMap)),
        (
            "settled with all",
            new StepSettled(
                "a",
                Outcome.Failed,
                Odd,
                new("code", "message", "detail"),
                "note",
                ["w"],
                [new("x", true, [])]
            )
        ),
        ("gate", new GateDecided("a[0]", 7, true, null)),
        ("gate with reason", new GateDecided("", 0, false, new([], "why"))),
        ("set", new VariableSet("", "n", Odd, "a")),
        ("iteration", new IterationOpened("a", 12)),
        ("another kind", new RunWarned("a", "m")),
    ];

    [Theory]
    [MemberData(nameof(Names))]
    public void ARowIsTheSameByEitherWay(string name)
    {
        var decision = new Decision(At, [Events.Single(e => e.Name == name).Event, new RunReleased()]);
        var row = decision.ToBytes();
        Assert.Equal(
            JsonSerializer.Serialize(decision, EventJson.Default.Decision),
            System.Text.Encoding.UTF8.GetString(row)
        );
        Assert.Equal(row, Decision.FromBytes(row).ToBytes());
    }
}
