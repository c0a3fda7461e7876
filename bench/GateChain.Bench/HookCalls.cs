using System.Diagnostics;
using System.Net.Http.Json;
using System.Text;
using GateChain.Client;

namespace GateChain.Bench;

/// <summary>Calls of a hook as its callers make them: over HTTP, to the program that people start.</summary>
static class HookCalls
{
    const int Calls = 10_000,
        Callers = 100;

    /// <summary>
    /// Calls a second that are on disk when they are answered. The callers share the machine's cores.
    /// </summary>
    public static async Task MeasureAsync()
    {
        var folder = Directory.CreateTempSubdirectory("gatechain-bench-").FullName;
        var program = Path.Combine(AppContext.BaseDirectory, "../../GateChain.Cli/release/gatechain");
        using var service = Process.Start(
            new ProcessStartInfo(
                program,
                ["serve", "--listen", "http://127.0.0.1:0", "--data", Path.Combine(folder, "data"), "--work", folder]
            )
            {
                RedirectStandardOutput = true,
            }
        )!;
        try
        {
            var line = await service.StandardOutput.ReadLineAsync();
            var address = new Uri(line!["Gate Chain listens at ".Length..]);
            using var client = new GateChainClient(address, "bench");
            await client.PushAsync(
                new Dictionary<string, byte[]>
                {
                    ["note.chain.yaml"] = Encoding.UTF8.GetBytes(Triggers.Chain),
                    ["triggers.yaml"] = "call: { chain: note, hook: { path: call, open: true } }"u8.ToArray(),
                }
            );
            var rates = new List<double>();
            for (var round = 0; round < 4; round++)
                rates.Add(await RateAsync(new(address, "hooks/call"), round));
            Console.WriteLine(
                $"{rates.Skip(1).Order().ElementAt(1):N0} calls/s over HTTP accepted durably (median of 3 rounds; "
                    + $"{Callers} callers on the same {Environment.ProcessorCount} cores)"
            );
        }
        finally
        {
            service.Kill();
            await service.WaitForExitAsync();
            Directory.Delete(folder, recursive: true);
        }
    }

    static async Task<double> RateAsync(Uri hook, int round)
    {
        using var http = new HttpClient();
        var clock = Stopwatch.StartNew();
        await Task.WhenAll(
            Enumerable
                .Range(0, Callers)
                .Select(async caller =>
                {
                    for (var i = caller; i < Calls; i += Callers)
                    {
                        using var request = new HttpRequestMessage(HttpMethod.Post, hook)
                        {
                            Content = JsonContent.Create(new { n = 1 }),
                        };
                        request.Headers.Add("webhook-id", $"{round}-{i}");
                        using var response = await http.SendAsync(request);
                        if ((int)response.StatusCode != 202)
                            throw new InvalidOperationException($"{response.StatusCode}");
                    }
                })
        );
        return Calls / clock.Elapsed.TotalSeconds;
    }
}
