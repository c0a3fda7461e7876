using System.Globalization;
using GateChain.EndToEnd.House;
using GateChain.Tests;

namespace GateChain.EndToEnd.Crashes;

/// <summary>
/// Loads in every mode and database are killed at random moments; the tables are in the end what one undisturbed load
/// makes of them.
/// </summary>
public sealed class LoadKillTests
{
    static int Rounds =>
        int.TryParse(Environment.GetEnvironmentVariable("GATECHAIN_KILLS"), out var n) ? Math.Max(1, n / 4) : 1;

    // What each says of the table and of the load.
    static readonly (string Name, string Into, string More)[] Modes =
    [
        ("append", "mode: append", ""),
        ("batch", "mode: append", "restart: batch"),
        ("replace", "mode: replace", ""),
        ("truncate", "mode: truncate", ""),
        ("upsert", "mode: upsert, key: [id]", ""),
        ("insert", "mode: insert, key: [id]", ""),
        ("mirror", "mode: mirror, key: [id], goneLimit: 9999", ""),
        ("history", "mode: history, key: [id]", ""),
        ("since", "mode: upsert, key: [id]", ""),
    ];

    static readonly string[] Databases = ["lite", "postgres", "maria"];

    static IEnumerable<(string Database, string Mode, string Into, string More, string Step)> All =>
        from database in Databases
        from mode in Modes
        select (database, mode.Name, mode.Into, mode.More, $"{database}_{mode.Name}");

    // Tables with old rows, of which the new ones meet some.
    static string Prepare =>
        "chain: prepare\nsteps:\n"
        + string.Concat(
            Databases.Select(d => $"  drop_{d}: {{ kind: sql, set: {{ connection: {d}, query: \"{Drops()}\" }} }}\n")
        )
        + string.Concat(
            All.Select(l =>
                $"  {l.Step}: {{ kind: load, set: {{ from: {{ csv: old.csv }}, "
                + $"into: {{ connection: {l.Database}, table: t_{l.Mode}, create: true, {Make(l.Mode, l.Into)} }}, "
                + "columns: { id: { type: int }, v: {} } } }\n"
            )
        )
        + string.Concat(
            Databases.Select(d =>
                $"  source_{d}: {{ kind: load, set: {{ from: {{ csv: new.csv }}, "
                + $"into: {{ connection: {d}, table: source, "
                + "create: true }, columns: { id: { type: int }, v: {} }, reject: { limit: 5 } } }\n"
            )
        )
        + "gates:\n"
        + string.Concat(All.Select(l => $"  - {{ from: drop_{l.Database}, to: {l.Step} }}\n"))
        + string.Concat(Databases.Select(d => $"  - {{ from: drop_{d}, to: source_{d} }}\n"));

    static string Drops() =>
        string.Concat(Modes.Select(m => $"DROP TABLE IF EXISTS t_{m.Name}; ")) + "DROP TABLE IF EXISTS source";

    // The key is made with the table.
    static string Make(string mode, string into) =>
        mode == "history" || into.Contains("key", StringComparison.Ordinal)
            ? into.Replace("mode: mirror", "mode: upsert", StringComparison.Ordinal)
                .Replace(", goneLimit: 9999", "", StringComparison.Ordinal)
            : "mode: append";

    static string Loads =>
        "chain: loads\nsteps:\n"
        + string.Concat(
            All.Select(l =>
                $"  {l.Step}: {{ kind: load, set: {{ {From(l.Mode, l.Database)}, into: {{ connection: {l.Database}, "
                + $"table: t_{l.Mode}, {l.Into} }}, columns: {{ id: {{ type: int }}, v: {{}} }}, batch: 300"
                + $"{(l.More.Length > 0 ? $", {l.More}" : "")}, "
                + $"reject: {{ limit: 5, file: \"{l.Step}.bad.csv\" }} }} }}\n"
            )
        );

    static string From(string mode, string database) =>
        mode == "since"
            ? $"from: {{ connection: {database}, table: source, since: {{ column: id, keep: {database} }} }}"
            : "from: { csv: new.csv }";

    static string Dump =>
        "chain: dump\nsteps:\n"
        + string.Concat(
            All.Select(l =>
                $"  {l.Step}: {{ kind: load, set: {{ from: {{ connection: {l.Database}, query: \"{Rows(l.Mode)}\" }}, "
                + $"into: {{ csv: \"{l.Step}.csv\" }} }} }}\n"
            )
        );

    static string Rows(string mode) =>
        mode == "history"
            ? "SELECT id, v, CASE WHEN valid_to IS NULL THEN 1 ELSE 0 END AS o FROM t_history ORDER BY id, v"
            : $"SELECT id, v FROM t_{mode} ORDER BY id, v";

    [Fact]
    public async Task LoadsThatAreCutOffAreDoneOnceInEveryMode()
    {
        var seed = int.TryParse(Environment.GetEnvironmentVariable("GATECHAIN_SEED"), out var given)
            ? given
            : Environment.TickCount & 0xffff;
        var chance = new Random(seed);
        using var postgres = PostgreSqlServer.Start();
        using var maria = MariaDbServer.Start();
        await using var service = await Service.EmptyAsync();
        Write(service, postgres.Port, maria.Port);
        await service.PushFolderAsync(Path.Combine(service.Work, "chains"));
        foreach (var (name, password) in new[] { ("pg", PostgreSqlServer.Password), ("my", MariaDbServer.Password) })
            await service.Client.SetSecretAsync(name, password);
        var undisturbed = await RoundAsync(service, null);
        var lost = 0;
        for (var round = 0; round < Rounds; round++)
        {
            var after = chance.Next(0, 2500);
            var (words, cut) = await RoundAsync(service, after);
            lost += cut;
            Assert.True(
                undisturbed.Words == words,
                $"seed {seed}, round {round}, killed after {after} ms:\n{Difference(undisturbed.Words, words)}"
            );
        }
        TestContext.Current.TestOutputHelper?.WriteLine($"seed {seed}: {Rounds} kills cut {lost} loads off");
    }

    static string Difference(string expected, string found) =>
        string.Join('\n', found.Split('\n').Except(expected.Split('\n')).Take(10))
        + "\ninstead of\n"
        + string.Join('\n', expected.Split('\n').Except(found.Split('\n')).Take(10));

    static async Task<(string Words, int Lost)> RoundAsync(Service service, int? kill)
    {
        await RunAsync(service, "prepare");
        foreach (var position in await service.Client.PositionsAsync("loads"))
            await service.Client.SetPositionAsync("loads", new(position.Name));
        var run = await service.Client.StartAsync(new("loads"));
        if (kill is { } after)
        {
            await Task.Delay(after);
            await service.KillAsync();
            await service.StartAsync();
        }
        var ended = await service.EndAsync(run.Id);
        Assert.True(
            ended.State == "succeeded",
            string.Join('\n', ended.Steps.Where(s => s.State == "failed").Select(s => s.Path)) + ended.Error
        );
        await RunAsync(service, "dump");
        var kept = (await service.Client.PositionsAsync("loads")).Select(p => $"{p.Name} {p.Value}");
        var tables = All.Select(l =>
            $"{l.Step}: {File.ReadAllText(Path.Combine(service.Work, $"{l.Step}.csv"))}".Replace(
                "\n",
                $"\n{l.Step}: ",
                StringComparison.Ordinal
            )
        );
        return (string.Join('\n', kept.Concat(tables)), ended.Attempts.Count(a => a.Result == "lost"));
    }

    static async Task RunAsync(Service service, string chain)
    {
        var ended = await service.EndAsync((await service.Client.StartAsync(new(chain))).Id);
        Assert.True(ended.State == "succeeded", $"{chain}: {ended.Error}");
    }

    static void Write(Service service, int postgres, int maria)
    {
        Directory.CreateDirectory(Path.Combine(service.Work, "chains"));
        Put("old.csv", Rows(Enumerable.Range(1, 1500), "old"));
        // One line does not go anywhere.
        Put("new.csv", Rows(Enumerable.Range(1001, 3000), "new") + "x,broken\n");
        Put("chains/prepare.chain.yaml", Prepare);
        Put("chains/loads.chain.yaml", Loads);
        Put("chains/dump.chain.yaml", Dump);
        Put(
            "chains/connections.yaml",
            $$"""
            lite: { type: sqlite, path: lite.db, busyTimeout: 60s }
            postgres:
              { type: postgresql, host: 127.0.0.1, port: {{postgres}}, database: larkmoor, user: loader,
                password: "secret:pg", tls: off }
            maria:
              { type: mysql, host: 127.0.0.1, port: {{maria}}, database: larkmoor, user: loader,
                password: "secret:my", tls: off }
            """
        );

        void Put(string file, string text) => File.WriteAllText(Path.Combine(service.Work, file), text);

        static string Rows(IEnumerable<int> ids, string value) =>
            "id,v\n"
            + string.Concat(ids.Select(id => string.Create(CultureInfo.InvariantCulture, $"{id},{value}{id}\n")));
    }
}
