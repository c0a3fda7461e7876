using System.Text;
using System.Text.Json;
using GateChain.Core.Identity;
using GateChain.Core.Running.Events;

namespace GateChain.Core.Tests.Identity;

/// <summary>
/// Who did something stands in the journal, and what earlier versions wrote there still means the same.
/// </summary>
public sealed class ActorTests
{
    public static TheoryData<Actor, string> Written =>
        new()
        {
            { Actor.Person("ann"), "\"ann\"" },
            { Actor.Recovery, "\"recover\"" },
            { Actor.Rehearsal, "\"rehearsal\"" },
            { Actor.Trying, "\"try\"" },
            { Actor.OfRun(5), "\"run 5\"" },
            {
                Actor.OfRun(5, "ann (run 5, leg 2, attempt 3)"),
                """{"kind":"run","id":"5","name":"ann (run 5, leg 2, attempt 3)"}"""
            },
            { Actor.OfStep("a[2]/b", "step a[2]/b"), """{"kind":"step","id":"a[2]/b","name":"step a[2]/b"}""" },
            { new(ActorKind.Person, "u17", "Ann Miller"), """{"kind":"person","id":"u17","name":"Ann Miller"}""" },
            // A person who calls herself like the service is not the service.
            { Actor.Person("recover"), """{"kind":"person","id":"recover","name":"recover"}""" },
            { Actor.Person("run 5"), """{"kind":"person","id":"run 5","name":"run 5"}""" },
        };

    [Theory]
    [MemberData(nameof(Written))]
    public void EachIsReadAsItWasWritten(Actor actor, string json)
    {
        Assert.Equal(json, JsonSerializer.Serialize(actor, Plain));
        Assert.Equal(actor, JsonSerializer.Deserialize<Actor>(json));
        Assert.Equal(actor.Name, $"{actor}");
    }

    static readonly JsonSerializerOptions Plain = new()
    {
        Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    [Theory]
    [InlineData("7")]
    [InlineData("""{"kind":"nobody","id":"1","name":"x"}""")]
    [InlineData("[]")]
    public void WhatIsNoActorIsADamagedRow(string json) =>
        Assert.Throws<JsonException>(() => JsonSerializer.Deserialize<Actor>(json));

    [Fact]
    public void EventsOfEarlierVersionsHaveTheNameOnly()
    {
        const string row =
            """{"at":"2026-11-22T04:00:00+00:00","events":[{"t":"stop-asked","by":"ann","outcome":"Stopped"}]}""";
        var stop = Assert.IsType<StopAsked>(Decision.FromBytes(Encoding.UTF8.GetBytes(row)).Events[0]);
        Assert.Equal(Actor.Person("ann"), stop.By);
        // They are written as before, so that nothing changes for who reads the journal.
        Assert.Contains("\"by\":\"ann\"", Encoding.UTF8.GetString(new Decision(default, [stop]).ToBytes()));
    }
}
