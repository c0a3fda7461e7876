using System.Text;
using GateChain.EndToEnd.House;

namespace GateChain.EndToEnd.CommandLine;

/// <summary>
/// Stages that loads leave in a database go with their run, at the next start, or when somebody says so; what a resume
/// needs stays.
/// </summary>
public sealed class TidyCommandTests : IAsyncLifetime
{
    Service _service = null!;

    public async ValueTask InitializeAsync() => _service = await Service.EmptyAsync();

    public ValueTask DisposeAsync() => _service.DisposeAsync();

    // A load that fails behind its first batches, for a quote that is never closed.
    static string Chain(string name, string more) =>
        $$"""
            chain: {{name}}
            steps:
              gather:
                kind: load
                set: { from: { csv: in.csv }, into: { connection: lite, table: t, create: true }, batch: 100 }
            {{more}}
            """;

    async Task<string> TidyAsync(params string[] options)
    {
        var (code, output, error) = await _service.CliAsync(["tidy", "lite", .. options]);
        Assert.True(code == 0, output + error);
        return output;
    }

    string Stages() =>
        _service.Ask("lite.db", "SELECT group_concat(name) FROM sqlite_master WHERE name LIKE 'gatechain_stage%'");

    async Task<long> EndAsync(string chain, string state)
    {
        var run = await _service.EndAsync((await _service.Client.StartAsync(new(chain))).Id);
        Assert.Equal(state, run.State);
        return run.Id;
    }

    [Fact]
    public async Task WhatNobodyGoesOnWithIsCleared()
    {
        await File.WriteAllTextAsync(
            Path.Combine(_service.Work, "in.csv"),
            "id\n" + string.Concat(Enumerable.Range(1, 500).Select(i => $"{i}\n")) + "\"501\n"
        );
        await _service.Client.PushAsync(
            new Dictionary<string, byte[]>()
            {
                ["connections.yaml"] = Encoding.UTF8.GetBytes(
                    "lite: { type: sqlite, path: lite.db }\nbox: { type: smtp, host: 127.0.0.1, from: "
                        + "a@larkmoor.example }\n"
                ),
                ["plain.chain.yaml"] = Encoding.UTF8.GetBytes(Chain("plain", "")),
                ["handled.chain.yaml"] = Encoding.UTF8.GetBytes(Chain("handled", "    ifFails: absorb\n")),
            }
        );
        Assert.Equal("no load has left anything in lite\n", await TidyAsync());

        // Its failure is seen to: nobody resumes it, and its stage goes by itself.
        await EndAsync("handled", "succeeded");
        for (var i = 0; Stages().Length > 0; i++)
        {
            Assert.True(i < 200, Stages());
            await Task.Delay(50);
        }

        // A run that failed can be resumed; its stage stays until somebody says otherwise.
        var run = await EndAsync("plain", "failed");
        var stage = Stages();
        Assert.Equal($"kept              {stage}  run {run} gather: a resume continues with it\n", await TidyAsync());
        Assert.Equal(
            $"would be cleared  {stage}  run {run} gather: its run has failed; "
                + "a resume reads the source from the start\n",
            await TidyAsync("--failed", "--dry-run")
        );
        Assert.Equal(stage, Stages());
        Assert.StartsWith("cleared ", await TidyAsync("--failed"), StringComparison.Ordinal);
        Assert.Equal("", Stages());
        await File.WriteAllTextAsync(Path.Combine(_service.Work, "in.csv"), "id\n1\n2\n");
        await _service.CliAsync("resume", $"{run}");
        Assert.Equal("succeeded", (await _service.EndAsync(run)).State);
        Assert.Equal("2", _service.Ask("lite.db", "SELECT count(*) FROM t"));

        // What this service does not know is told, and left alone unless it is asked for; other tables are not touched.
        using (
            var lite = new Microsoft.Data.Sqlite.SqliteConnection(
                $"Data Source={Path.Combine(_service.Work, "lite.db")};Pooling=False"
            )
        )
        {
            lite.Open();
            using var create = lite.CreateCommand();
            create.CommandText = "CREATE TABLE gatechain_stage_00ff (id); CREATE TABLE gatechain_stages (id)";
            create.ExecuteNonQuery();
        }
        Assert.Contains(
            "kept              gatechain_stage_00ff: nobody here knows it; it may be another service's\n",
            await TidyAsync(),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "cleared           gatechain_stage_00ff",
            await TidyAsync("--unknown"),
            StringComparison.Ordinal
        );
        Assert.Equal(
            "0",
            _service.Ask("lite.db", "SELECT count(*) FROM sqlite_master WHERE name = 'gatechain_stage_00ff'")
        );
        Assert.Equal(
            "1",
            _service.Ask("lite.db", "SELECT count(*) FROM sqlite_master WHERE name = 'gatechain_stages'")
        );

        var (code, _, error) = await _service.CliAsync("tidy", "box");
        Assert.Equal(
            (2, true),
            (code, error.Contains("“box” is an smtp connection; loads leave nothing there", StringComparison.Ordinal))
        );
        Assert.Contains(
            "there is no connection “none”",
            (await _service.CliAsync("tidy", "none")).Err,
            StringComparison.Ordinal
        );
    }

    // The service was killed before it could clear what a run that has succeeded left.
    [Fact]
    public async Task TheNextStartClearsWhatIsLeft()
    {
        await File.WriteAllTextAsync(
            Path.Combine(_service.Work, "in.csv"),
            "id\n" + string.Concat(Enumerable.Range(1, 500).Select(i => $"{i}\n")) + "\"501\n"
        );
        await _service.Client.PushAsync(
            new Dictionary<string, byte[]>
            {
                ["connections.yaml"] = "lite: { type: sqlite, path: lite.db }\n"u8.ToArray(),
                ["plain.chain.yaml"] = Encoding.UTF8.GetBytes(Chain("plain", "")),
            }
        );
        var run = await EndAsync("plain", "failed");
        var stage = Stages();
        // As if the run were gone: its note bears another number.
        var note = Directory.EnumerateFiles(_service.Data, "stage.json", SearchOption.AllDirectories).Single();
        await File.WriteAllTextAsync(
            note,
            (await File.ReadAllTextAsync(note)).Replace($"\"Run\":{run},", "\"Run\":4711,", StringComparison.Ordinal)
        );
        Assert.Contains(
            $"would be cleared  {stage}  run 4711 gather: its run is gone",
            await TidyAsync("--dry-run"),
            StringComparison.Ordinal
        );
        await _service.KillAsync();
        await _service.StartAsync();
        for (var i = 0; Stages().Length > 0; i++)
        {
            Assert.True(i < 200, Stages());
            await Task.Delay(50);
        }
    }
}
