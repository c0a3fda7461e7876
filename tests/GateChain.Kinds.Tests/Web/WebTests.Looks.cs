using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Http;
using GateChain.Kinds.Machine;
using GateChain.Kinds.Notify;
using GateChain.Kinds.Remote;
using GateChain.Kinds.Sql;
using GateChain.Kinds.Tests.Servers;
using GateChain.StandIns;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Http;
using Microsoft.Extensions.Logging;

namespace GateChain.Kinds.Tests.Web;

public sealed partial class WebTests
{
    async Task<Value> LookAsync(IProbe probe, string settings) =>
        await probe.LookAsync(
            ValueJson.TryParse(settings)!.Value,
            new(_bench.Folder, new(_bench.Folder), _bench, _bench, TimeProvider.System),
            default
        );

    [Fact]
    public async Task ProbesSeeWhatThereIs()
    {
        static string Seen(Value value, params string[] names) =>
            string.Join(' ', names.Select(n => value.AsMap.Find(n)?.ToString() ?? "-"));
        Assert.Equal(
            "true 200",
            Seen(
                await LookAsync(new HttpProbe(), """{"connection": "open", "path": "chat/messages"}"""),
                "ok",
                "status"
            )
        );
        Assert.Equal(
            "true 401",
            Seen(await LookAsync(new HttpProbe(), """{"connection": "open", "path": "lab/samples"}"""), "ok", "status")
        );
        Assert.Equal(
            "false",
            Seen(
                await LookAsync(new HttpProbe(), $$"""{"path": "http://127.0.0.1:{{ServerProcess.FreePort()}}/"}"""),
                "ok"
            )
        );
        Assert.Equal(
            "true true",
            Seen(
                await LookAsync(new PortProbe(), $$"""{"host": "127.0.0.1", "port": {{_world.Address.Port}}}"""),
                "ok",
                "open"
            )
        );
        Assert.Equal(
            "true false",
            Seen(
                await LookAsync(new PortProbe(), $$"""{"host": "127.0.0.1", "port": {{ServerProcess.FreePort()}}}"""),
                "ok",
                "open"
            )
        );
        Assert.Equal(
            "false",
            Seen(await LookAsync(new PortProbe(), """{"host": "no-such-machine.invalid", "port": 1}"""), "ok")
        );
        _bench.Sql("CREATE TABLE prices (day TEXT, cents INTEGER); INSERT INTO prices VALUES ('2026-11-22', 41)");
        Assert.Equal(
            "true true 41",
            Seen(
                await LookAsync(
                    new QueryProbe(),
                    """{"connection": "db", "query": "SELECT cents FROM prices WHERE day = $day", "bind": {"day": "2026-11-22"}}"""
                ),
                "ok",
                "found",
                "value"
            )
        );
        Assert.Equal(
            "true false null",
            Seen(
                await LookAsync(
                    new QueryProbe(),
                    """{"connection": "db", "query": "SELECT cents FROM prices WHERE day = 'x'"}"""
                ),
                "ok",
                "found",
                "value"
            )
        );
        Assert.Equal(
            "false",
            Seen(await LookAsync(new QueryProbe(), """{"connection": "db", "query": "SELECT nothing"}"""), "ok")
        );
        // A look changes nothing.
        await LookAsync(new QueryProbe(), """{"connection": "db", "query": "DELETE FROM prices RETURNING day"}""");
        Assert.Equal("1", _bench.Ask("SELECT count(*) FROM prices"));
        using var sleeping = System.Diagnostics.Process.Start("sleep", "61.5");
        // A program has its name a moment after it was started: exec(2) closes what it must before it sets the
        // arguments.
        while (File.ReadAllText($"/proc/{sleeping.Id}/cmdline").Length == 0)
            await Task.Yield();
        Assert.Equal(
            "true 1",
            Seen(await LookAsync(new ProcessProbe(), """{"name": "sleep", "holds": "61.5"}"""), "ok", "count")
        );
        sleeping.Kill();
        await sleeping.WaitForExitAsync();
        Assert.Equal(
            "true 0",
            Seen(await LookAsync(new ProcessProbe(), """{"name": "sleep", "holds": "61.5"}"""), "ok", "count")
        );
    }

    [Theory]
    [InlineData("lab", true, "answers 200 OK")]
    [InlineData("office", true, "SMTP server, signed in, mails up to 10 MiB")]
    [InlineData("db", true, "SQLite 3")]
    public async Task ConnectionsSayWhatTheyFind(string name, bool works, string words)
    {
        var connection = _bench.Find(name)!;
        var check = await ConnectionCheck.LookAsync(
            connection,
            AllConnections.Types.First(t => t.Name == connection.Type),
            new(_bench.Folder, _bench),
            default
        );
        Assert.Equal((works, true), (check.Works, check.Found.StartsWith(words, StringComparison.Ordinal)));
    }
}
