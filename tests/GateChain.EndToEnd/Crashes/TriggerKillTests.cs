using System.Globalization;
using System.Net.Http.Json;
using System.Text;
using GateChain.Client;
using GateChain.EndToEnd.House;

namespace GateChain.EndToEnd.Crashes;

/// <summary>
/// The service is killed at random moments while times pass, files come and callers call: each of them starts exactly
/// one run, seen from outside.
/// </summary>
public class TriggerKillTests
{
    static int Rounds => int.TryParse(Environment.GetEnvironmentVariable("GATECHAIN_KILLS"), out var n) ? n : 6;

    // In the long suite 10,000 files come in bursts.
    static int MostAtOnce => Rounds > 20 ? 96 : 40;

    const string Triggers = """
        tick: { chain: note, schedule: { every: 1s, missed: all }, params: { what: string(event.due) } }
        come: { chain: note, arrival: { path: "in/*.txt", quiet: 100ms }, params: { what: event.name } }
        call: { chain: note, hook: { path: call, open: true }, params: { what: event.id } }
        """;

    const string Note =
        "chain: note\nparams: { what: { type: string } }\nvars: { n: { type: int } }\n"
        + "steps: { a: { kind: assign, assign: { vars.n: 1 } } }";

    [Fact]
    public async Task EveryTimeFileAndCallStartsExactlyOneRun()
    {
        var seed = int.TryParse(Environment.GetEnvironmentVariable("GATECHAIN_SEED"), out var given)
            ? given
            : Environment.TickCount & 0xffff;
        TestContext.Current.TestOutputHelper?.WriteLine($"seed {seed}; {Rounds} kills");
        var chance = new Random(seed);
        await using var service = await Service.EmptyAsync();
        var folder = Directory.CreateDirectory(Path.Combine(service.Work, "in")).FullName;
        await service.Client.PushAsync(
            new Dictionary<string, byte[]>
            {
                ["note.chain.yaml"] = Encoding.UTF8.GetBytes(Note),
                ["triggers.yaml"] = Encoding.UTF8.GetBytes(Triggers),
            }
        );
        using var over = new CancellationTokenSource();
        var calls = CallAsync(service, over.Token);
        var files = 0;
        for (var round = 0; round < Rounds; round++)
        {
            for (var i = chance.Next(5, MostAtOnce); i > 0; i--)
                await File.WriteAllTextAsync(Path.Combine(folder, $"f{files++:00000}.txt"), "x");
            await Task.Delay(chance.Next(50, 900));
            await service.KillAsync();
            await service.StartAsync();
        }
        await over.CancelAsync();
        var called = await calls;
        await UntilAsync(async () => (await WhatAsync(service, "come")).Count >= files);
        Assert.Equal(
            Enumerable.Range(0, files).Select(i => $"f{i:00000}.txt"),
            (await WhatAsync(service, "come")).Order(StringComparer.Ordinal)
        );
        Assert.Equal(
            called.Order(StringComparer.Ordinal),
            (await WhatAsync(service, "call")).Order(StringComparer.Ordinal)
        );
        // Every second from the first to the last one, once.
        var due = (await WhatAsync(service, "tick"))
            .Select(t => DateTimeOffset.Parse(t, CultureInfo.InvariantCulture))
            .Order()
            .ToList();
        Assert.Equal(Enumerable.Range(0, due.Count).Select(i => due[0].AddSeconds(i)), due);
        Assert.True(due.Count >= Rounds / 4 && called.Count > Rounds, $"{due.Count} times, {called.Count} calls");
        TestContext.Current.TestOutputHelper?.WriteLine($"{due.Count} times, {files} files, {called.Count} calls");
    }

    // A caller that gets no answer calls again, with the same id.
    static async Task<List<string>> CallAsync(Service service, CancellationToken over)
    {
        var ids = new List<string>();
        using var http = new HttpClient { Timeout = TimeSpan.FromSeconds(10) };
        while (!over.IsCancellationRequested)
        {
            var id = $"m{ids.Count:00000}";
            ids.Add(id);
            for (var isAnswered = false; !isAnswered; )
            {
                try
                {
                    using var request = new HttpRequestMessage(HttpMethod.Post, new Uri(service.Address, "hooks/call"))
                    {
                        Content = JsonContent.Create(new { }),
                    };
                    request.Headers.Add("webhook-id", id);
                    using var response = await http.SendAsync(request, CancellationToken.None);
                    isAnswered = response.IsSuccessStatusCode;
                }
                catch (Exception e) when (e is HttpRequestException or OperationCanceledException or IOException)
                {
                    // It is being killed, or begins.
                }
                await Task.Delay(20, CancellationToken.None);
            }
        }
        return ids;
    }

    // The parameter of every run that a trigger has started.
    static async Task<List<string>> WhatAsync(Service service, string trigger)
    {
        var what = new List<string>();
        for (long? before = null; ; )
        {
            var page = await service.Client.RunsAsync(
                new RunFilter
                {
                    Trigger = trigger,
                    Before = before,
                    Limit = 500,
                }
            );
            what.AddRange(page.Select(r => r.Params.GetProperty("what").GetString()!));
            if (page.Count < 500)
                return what;
            before = page[^1].Id;
        }
    }

    static async Task UntilAsync(Func<Task<bool>> holds)
    {
        for (var i = 0; i < 3000; i++)
        {
            if (await holds())
                return;
            await Task.Delay(100);
        }
        Assert.Fail("files are lost: in vain");
    }
}
