using System.Net;
using System.Security.Cryptography;
using System.Text;
using GateChain.EndToEnd.House;

namespace GateChain.EndToEnd.CommandLine;

/// <summary>What starts by itself, as people meet it: command line and hooks, on the demo.</summary>
public class TriggerCommandTests
{
    static void Has(string expected, string actual) => Assert.Contains(expected, actual, StringComparison.Ordinal);

    static async Task<string> Cli(Service service, params string[] arguments)
    {
        var (exit, output, error) = await service.CliAsync(arguments);
        return $"{output}{error}{(exit == 0 ? "" : $"exit {exit}")}".Trim();
    }

    [Fact]
    public async Task TriggersAreListedSwitchedHeldAndFired()
    {
        await using var service = await Service.WithDemoAsync();
        Has("nothing starts by itself: held by", await Cli(service, "triggers"));
        Has("held by", await Cli(service, "hold"));
        // Nothing else is to fire while this looks.
        foreach (var name in (string[])["nightly", "poor-milk"])
            Assert.Equal($"{name} is off", await Cli(service, "trigger", name, "off"));
        Has("nothing is held", await Cli(service, "hold", "off"));
        var list = await Cli(service, "triggers");
        Has("nightly         off   starts milk-intake every day at 02:30 Dublin time, except dairy-holidays", list);
        Has("its file says otherwise", list);
        Has("order-prices    on    starts price-order when POST /hooks/prices/order", list);
        Assert.Equal(3, (await Cli(service, "trigger", "nightly", "next", "--count", "3")).Split('\n').Length);
        Has("did you mean “nightly”?", await Cli(service, "trigger", "nightl", "off"));
        Has("say what happened with --event", await Cli(service, "trigger", "late-pickups", "fire"));
        // What is typed is taken for what it stands for: a time.
        var fired = await Cli(
            service,
            "trigger",
            "nightly",
            "fire",
            "--event",
            """{"due": "2026-11-23T02:30:00Z", "period": {}, "missed": 0, "backfill": false}"""
        );
        Has("was started", fired);
        Directory.CreateDirectory(Path.Combine(service.Work, "inbox/late"));
        await File.WriteAllTextAsync(
            Path.Combine(service.Work, "inbox/late/a.csv"),
            "pickup_id,depot,litres\nL-1,west,100.5\n"
        );
        string[] fires = ["fires", "--trigger", "late-pickups"];
        for (var i = 0; !(await Cli(service, fires)).Contains("succeeded", StringComparison.Ordinal); i++)
        {
            Assert.True(i < 100, await Cli(service, "fires"));
            await Task.Delay(200);
        }
        Assert.Equal("100.5", service.Warehouse("SELECT litres FROM late_pickups"));
        Has("inbox/late/a.csv", await Cli(service, "fires"));
        Has("late-pickups", await Cli(service, "runs", "--trigger", "late-pickups", "--text", "LATE/A"));
        Assert.Equal("no runs", await Cli(service, "runs", "--trigger", "late-pickups", "--to", "2026-01-01"));
    }

    [Fact]
    public async Task ASignedCallGivesItsCallerTheOutputsAndWhatIsKeptGoesOn()
    {
        await using var service = await Service.WithDemoAsync();
        await service.Client.SetSecretAsync("shop", "made-up");
        await service.Client.SetSecretAsync("mail", "made-up");
        await service.Client.SwitchAsync("tell-everybody", on: false);
        await service.Client.SwitchAsync("nightly", on: false);
        await service.Client.SwitchAsync("poor-milk", on: false);
        await service.Client.HoldAsync(new(false));
        // Nobody stands in for the chat here: the number is given all the same, and the run fails.
        var (status, text) = await CallAsync(service, "m1", """{"customer": "Glen Farm", "copies": 2}""");
        Assert.Equal(HttpStatusCode.OK, status);
        Has("\"outcome\":\"failed\"", text);
        Has("\"run\":1", (await CallAsync(service, "m1", """{"customer": "Glen Farm", "copies": 2}""")).Text);
        (status, text) = await CallAsync(service, "m2", """{"customer": "", "copies": 0}""");
        Assert.Equal(HttpStatusCode.UnprocessableEntity, status);
        Has("#/copies: number too small", text);
        Assert.Equal(HttpStatusCode.Unauthorized, (await CallAsync(service, "m3", "{}", "wrong")).Status);
        Has("keeps nothing yet", await Cli(service, "kept", "price-order"));
        Has("number = 2000", await Cli(service, "kept", "price-order", "--set", "number=2000"));
        Has(
            "keeps no variable “numbr”; did you mean “number”?",
            await Cli(service, "kept", "price-order", "--reset", "numbr")
        );
        Has("position last = 7, set by", await Cli(service, "kept", "price-order", "--position", "last=7"));
        Has("keeps no position “lost”", await Cli(service, "kept", "price-order", "--forget", "lost"));
        Assert.DoesNotContain(
            "last",
            await Cli(service, "kept", "price-order", "--forget", "last"),
            StringComparison.Ordinal
        );
    }

    static string Signature(string secret, string text) =>
        Convert.ToBase64String(HMACSHA256.HashData(Encoding.UTF8.GetBytes(secret), Encoding.UTF8.GetBytes(text)));

    static async Task<(HttpStatusCode Status, string Text)> CallAsync(
        Service service,
        string id,
        string body,
        string secret = "made-up"
    )
    {
        using var http = new HttpClient();
        var at = DateTimeOffset.UtcNow.ToUnixTimeSeconds().ToString(System.Globalization.CultureInfo.InvariantCulture);
        using var request = new HttpRequestMessage(HttpMethod.Post, new Uri(service.Address, "hooks/prices/order"))
        {
            Content = new StringContent(body, Encoding.UTF8, "application/json"),
        };
        request.Headers.Add("webhook-id", id);
        request.Headers.Add("webhook-timestamp", at);
        request.Headers.Add("webhook-signature", $"v1,{Signature(secret, $"{id}.{at}.{body}")}");
        using var response = await http.SendAsync(request);
        return (response.StatusCode, await response.Content.ReadAsStringAsync());
    }

    [Fact]
    public async Task ABackfillTellsWhatItWouldDoAndHowFarItGot()
    {
        await using var service = await Service.EmptyAsync();
        await service.Client.PushAsync(
            new Dictionary<string, byte[]>
            {
                ["t.chain.yaml"] = Encoding.UTF8.GetBytes(
                    "chain: t\nparams: { day: { type: timestamp } }\nvars: { n: { type: int } }\n"
                        + "steps: { a: { kind: assign, assign: { vars.n: 1 } } }"
                ),
                ["triggers.yaml"] = Encoding.UTF8.GetBytes(
                    "daily: { chain: t, schedule: { every: day, at: \"06:00\" }, "
                        + "params: { day: event.due }, active: false }"
                ),
            }
        );
        string[] span = ["--from", "2026-11-01", "--to", "2026-11-06"];
        Assert.EndsWith(
            "2026-11-05 06:00:00 UTC\n5 due times would be made up for",
            await Cli(service, ["backfill", "daily", .. span, "--preview"])
        );
        Assert.EndsWith(
            "backfill 1 of daily: ended; 5 of 5: 5 succeeded, 0 failed, 0 going",
            await Cli(service, ["backfill", "daily", .. span, "--parallel", "2", "-f"])
        );
        Has("every due time of the span has a run already", await Cli(service, ["backfill", "daily", .. span]));
        Has("5 of 5", await Cli(service, "backfills"));
        Has("backfill 1 is ended", await Cli(service, "backfills", "1", "--do", "stop"));
    }
}
