using System.Globalization;
using System.Text;
using GateChain.Core.Identity;
using GateChain.Core.Values;
using GateChain.Engine.Triggers;

namespace GateChain.Engine.Tests.Triggers;

/// <summary>Calls of other systems: who is let in, what is read, and that a repeat is answered and not done.</summary>
public class HookTests
{
    const string Signed = """
        order:
          chain: t
          hook: { path: orders, sign: [secret:old, secret:new], accepts: order.json, wait: 20s }
          params: { x: event.body.n }
        free: { chain: t, hook: { path: free, open: true }, params: { x: event.body } }
        token: { chain: t, hook: { path: a/b, token: secret:new } }
        """;

    const string Schema = """{ "type": "object", "required": ["n"], "properties": { "n": { "type": "integer" } } }""";

    static async Task<TriggerHouse> OpenAsync(string chain = TriggerHouse.Chain)
    {
        var house = await TriggerHouse.OpenAsync("none: { chain: t, schedule: { every: day, at: \"00:00\" } }");
        await house.Engine.Secrets.SetAsync("new", "the new one", Area.Root, Ann);
        await house.PushAsync(Signed, chain, ("order.json", Schema));
        return house;
    }

    static HookCall Call(string path, string body, params (string Name, string Value)[] headers) =>
        new(
            path,
            headers.ToDictionary(h => h.Name, h => h.Value),
            new Dictionary<string, string>(),
            headers.FirstOrDefault(h => h.Name == "content-type").Value ?? "application/json",
            Encoding.UTF8.GetBytes(body)
        );

    static HookCall SignedCall(TriggerHouse house, string body, string id, string secret = "the new one", int ago = 0)
    {
        var at = house
            .House.Clock.GetUtcNow()
            .AddSeconds(-ago)
            .ToUnixTimeSeconds()
            .ToString(CultureInfo.InvariantCulture);
        return Call(
            "orders",
            body,
            ("webhook-id", id),
            ("webhook-timestamp", at),
            ("webhook-signature", $"v1,AAAA {WebhookSignature.Sign(secret, id, at, Encoding.UTF8.GetBytes(body))}")
        );
    }

    static async Task<string> AskAsync(TriggerHouse house, HookCall call)
    {
        var answer = await house.Engine.Hooks.TakeAsync(call, CancellationToken.None);
        return string.Join(
            " ",
            (
                (object?[])
                    [
                        answer.Status,
                        answer.Run is { } run ? $"run {run}" : null,
                        answer.Outcome,
                        answer.Sentence,
                        .. answer.Details,
                    ]
            ).Where(p => p is not null)
        );
    }

    [Fact]
    public async Task AWellSignedCallWaitsForItsRunAndARepeatIsAnsweredFromIt()
    {
        await using var house = await OpenAsync();
        Assert.Equal("200 run 1 succeeded", await AskAsync(house, SignedCall(house, """{"n": 3}""", "m1")));
        Assert.Equal("3", (await house.ParamAsync(1)).ToString());
        Assert.Equal("200 run 1 succeeded", await AskAsync(house, SignedCall(house, """{"n": 3}""", "m1")));
        Assert.Equal("200 run 2 succeeded", await AskAsync(house, SignedCall(house, """{"n": 3}""", "m2")));
        // What lets somebody in is nobody's business.
        Assert.All(await house.FiresAsync("order", "headers"), f =>
            Assert.DoesNotContain("signature", f, StringComparison.Ordinal)
        );
    }

    [Fact]
    public async Task AStrangerLearnsNothing()
    {
        await using var house = await OpenAsync();
        const string No = "401 there is no such hook, or the call does not show that it may use it";
        Assert.Equal(No, await AskAsync(house, Call("nowhere", "{}")));
        Assert.Equal(No, await AskAsync(house, Call("orders", """{"n": 1}""")));
        Assert.Equal(No, await AskAsync(house, SignedCall(house, """{"n": 1}""", "m1", "another secret")));
        Assert.Equal(No, await AskAsync(house, SignedCall(house, """{"n": 1}""", "m1", ago: 400)));
        Assert.Equal(No, await AskAsync(house, SignedCall(house, """{"n": 1}""", "m1", ago: -400)));
        // Changed on its way.
        Assert.Equal(
            No,
            await AskAsync(house, SignedCall(house, """{"n": 1}""", "m1") with { Body = "{\"n\": 2}"u8.ToArray() })
        );
        Assert.Equal(No, await AskAsync(house, Call("a/b", "", ("authorization", "Bearer wrong"))));
        Assert.Empty(await house.FiresAsync());
        Assert.Equal("202 run 1", await AskAsync(house, Call("a/b", "", ("authorization", "bearer the new one"))));
    }

    [Fact]
    public async Task WhatDoesNotFitTakesNoKey()
    {
        await using var house = await OpenAsync();
        Assert.Equal(
            "422 the body is not as order.json says #/n: integer expected",
            await AskAsync(house, SignedCall(house, """{"n": "x"}""", "m1"))
        );
        const string No = "422 the body is no JSON, or has two members of one name";
        Assert.Equal(No, await AskAsync(house, SignedCall(house, "{", "m1")));
        Assert.Equal(No, await AskAsync(house, SignedCall(house, """{"n": 1, "n": 2}""", "m1")));
        // The schema's library throws at it.
        Assert.StartsWith(
            "422 the body is not as order.json says",
            await AskAsync(house, SignedCall(house, """{"n": 9223372036854775808}""", "m1")),
            StringComparison.Ordinal
        );
        Assert.Equal("200 run 1 succeeded", await AskAsync(house, SignedCall(house, """{"n": 1}""", "m1")));
        Assert.Equal(
            "413 a body has 1 MiB at most",
            await AskAsync(house, Call("free", new string(' ', (1 << 20) + 1)))
        );
        Assert.Equal(
            "415 a body of type image/png is not read: JSON, form or CloudEvents",
            await AskAsync(house, Call("free", "x", ("content-type", "image/png")))
        );
    }

    [Theory]
    [InlineData("application/json", "[1]", "[1]")]
    [InlineData("application/x-www-form-urlencoded", "a=1+2&b=%26", """{"a": "1 2", "b": "&"}""")]
    [InlineData("text/plain", "hello", "\"hello\"")]
    [InlineData("application/cloudevents+json", """{"id": "1", "source": "/s", "data": {"k": 1}}""", """{"k": 1}""")]
    [InlineData("application/json", "", "null")]
    public async Task BodiesAreRead(string type, string body, string x)
    {
        await using var house = await OpenAsync();
        Assert.Equal("202 run 1", await AskAsync(house, Call("free", body, ("content-type", type))));
        Assert.Equal(x, (await house.ParamAsync(1)).ToString());
    }

    [Fact]
    public async Task TheIdOfACallIsThatOfWhateverStandardItFollows()
    {
        await using var house = await OpenAsync();
        Assert.Equal("202 run 1", await AskAsync(house, Call("free", "1", ("idempotency-key", "k"))));
        Assert.Contains(
            "run 1",
            await AskAsync(house, Call("free", "1", ("idempotency-key", "k"))),
            StringComparison.Ordinal
        );
        Assert.Equal("202 run 2", await AskAsync(house, Call("free", "1", ("ce-id", "k"), ("ce-source", "/a"))));
        Assert.Contains(
            "run 2",
            await AskAsync(house, Call("free", "1", ("ce-id", "k"), ("ce-source", "/a"))),
            StringComparison.Ordinal
        );
        Assert.Equal("202 run 3", await AskAsync(house, Call("free", "1", ("ce-id", "k"), ("ce-source", "/b"))));
        // Without one each call is an occasion of its own.
        Assert.Equal("202 run 4", await AskAsync(house, Call("free", "1")));
        Assert.Equal("202 run 5", await AskAsync(house, Call("free", "1")));
    }

    [Fact]
    public async Task ABusyChainAHeldOneAndAFailedRunAreTold()
    {
        await using var house = await OpenAsync(
            "chain: t\nparams: { x: { type: any, default: 0 } }\nwhenBusy: skip\nsteps: { a: { kind: count } }"
        );
        house.House.Count.Hanging["a"] = true;
        Assert.Equal("202 run 1", await AskAsync(house, Call("free", "1", ("webhook-id", "1"))));
        Assert.Equal(
            "409 run 1 “t” is busy with run 1, and its whenBusy is skip",
            await AskAsync(house, Call("free", "1"))
        );
        house.House.Count.Failing["a"] = true;
        house.House.Count.Release();
        await house.House.EndAsync(1);
        Assert.Equal("200 run 1 failed a: told to fail", await AskAsync(house, Call("free", "1", ("webhook-id", "1"))));
        await house.Engine.Triggers.SwitchAsync("free", on: false, missed: false, Ann);
        Assert.Equal("503 the trigger is off", await AskAsync(house, Call("free", "1")));
    }

    [Fact]
    public void SignaturesAreThoseOfTheSpecification()
    {
        // The example of the specification.
        Assert.Equal(
            "v1,g0hM9SsE+OTPJTGt/tmIKtSyZlE3uFJELVlNIOLJ1OE=",
            WebhookSignature.Sign(
                "whsec_MfKQ9r8GKYqrTwjUPD8ILPZIo2LaLaSw",
                "msg_p5jXN8AQM9LWM0D4loKWxJek",
                "1614265330",
                """{"test": 2432232314}"""u8
            )
        );
    }
}
