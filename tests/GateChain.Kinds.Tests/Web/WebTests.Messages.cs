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
    Task<AttemptResult> NotifyAsync(string settings) => _bench.RunAsync(new NotifyKind(), settings);

    [Fact]
    public async Task AMailArrivesWithTextHtmlAndFiles()
    {
        _bench.Write("report.csv", "depot,litres\nnorth,5\n");
        var result = await NotifyAsync(
            """{"connection": "office", "to": ["office@larkmoor.example", "Zoë <zoe@larkmoor.example>"], "bcc": ["quiet@larkmoor.example"], "subject": "west\nBcc: evil@example.com", "text": "The west depot failed: größer als 50", "html": "<p>failed</p>", "attach": ["report.csv"]}"""
        );
        Assert.Null(result.Error);
        Assert.Equal(3, Out(result, "recipients").AsInt);
        var mail = Assert.Single(_world.Mails);
        Assert.Equal("nightly@larkmoor.example", mail.From);
        Assert.Equal(["office@larkmoor.example", "zoe@larkmoor.example", "quiet@larkmoor.example"], mail.To);
        Assert.Contains("Subject: west Bcc: evil@example.com", mail.Text);
        Assert.DoesNotContain("quiet@", mail.Text);
        Assert.Contains("filename=report.csv", mail.Text);
        Assert.Contains(
            "Content-Type: text/csv; name=report.csv; charset=utf-8",
            mail.Text.ReplaceLineEndings(" ").Replace("\t", "", StringComparison.Ordinal)
        );
        // Those of a pattern, by name.
        _bench.Write("day/b.csv", "b");
        _bench.Write("day/a.csv", "a");
        await NotifyAsync(
            """{"connection": "office", "to": ["a@larkmoor.example"], "subject": "files", "text": "x", "attach": ["day/*.csv"]}"""
        );
        Assert.Equal(
            ["filename=a.csv", "filename=b.csv"],
            System
                .Text.RegularExpressions.Regex.Matches(_world.Mails[^1].Text, @"filename=\w\.csv")
                .Select(m => m.Value)
        );
        // The same work again bears the same name.
        await NotifyAsync(
            """{"connection": "office", "to": ["office@larkmoor.example"], "subject": "again", "text": "x"}"""
        );
        Assert.Single(
            _world
                .Mails.Select(m =>
                    m.Text.Split('\n').First(l => l.StartsWith("Message-Id", StringComparison.OrdinalIgnoreCase))
                )
                .Distinct()
        );
    }

    [Fact]
    public async Task ATemplateSeesWhatIsBoundAndHtmlIsEscaped()
    {
        _bench.Attachments["failed.txt"] = "Run ${bind.run}: ${bind.why}, 5 $${ left";
        _bench.Attachments["failed.html"] = "<p>${bind.why}</p>";
        _bench.Attachments["wrong.txt"] = "${bind.nobody}";
        const string settings =
            """{"connection": "office", "to": ["office@larkmoor.example"], "subject": "x", "bind": {"run": 7, "why": "<b>litres</b> & more"}, """;
        Assert.Null(
            (
                await NotifyAsync(settings + """ "text": {"file": "failed.txt"}, "html": {"file": "failed.html"}}""")
            ).Error
        );
        var mail = Assert.Single(_world.Mails).Text;
        Assert.Contains("Run 7: <b>litres</b> & more, 5 ${ left", mail);
        Assert.Contains("<p>&lt;b&gt;litres&lt;/b&gt; &amp; more</p>", mail);
        Assert.Equal("template", (await NotifyAsync(settings + """ "text": {"file": "wrong.txt"}}""")).Error!.Code);
        Assert.Equal(
            "the attachment “gone.txt” is missing",
            (await NotifyAsync(settings + """ "text": {"file": "gone.txt"}}""")).Error!.Message
        );
        Assert.Single(_world.Mails);
    }

    [Theory]
    [InlineData(
        """{"connection": "office", "to": ["nobody@larkmoor.example"], "text": "x"}""",
        "recipient",
        "nobody@larkmoor.example"
    )]
    [InlineData(
        """{"connection": "office", "to": ["not an address"], "text": "x"}""",
        "setting",
        "an address can't be read"
    )]
    [InlineData("""{"connection": "office", "text": "x"}""", "setting", "a mail needs “to”: who gets it")]
    [InlineData(
        """{"connection": "office", "to": ["a@larkmoor.example"]}""",
        "setting",
        "a mail needs “subject”, “text” or “html”: an empty one says nothing"
    )]
    [InlineData(
        """{"connection": "office", "to": ["a@larkmoor.example"], "text": "x", "attach": ["none.csv"]}""",
        "no-file",
        "none.csv"
    )]
    [InlineData(
        """{"connection": "office", "to": ["a@larkmoor.example"], "text": "x", "attach": ["none/*.csv"]}""",
        "no-file",
        "no file is like “none/*.csv”"
    )]
    [InlineData(
        """{"connection": "open", "path": "chat/rooms/night"}""",
        "setting",
        "a message over http needs “json” or “event”"
    )]
    public async Task AMessageThatCanNotBeSentIsTold(string settings, string code, string words)
    {
        var error = (await NotifyAsync(settings)).Error!;
        Assert.Equal(code, error.Code);
        Assert.Contains(words, error.Message);
        Assert.Empty(_world.Mails);
    }

    [Fact]
    public async Task AWrongMailPasswordIsTold()
    {
        _bench.Secrets["mail"] = "wrong password";
        Assert.Equal(
            "login",
            (await NotifyAsync("""{"connection": "office", "to": ["a@larkmoor.example"], "text": "x"}""")).Error?.Code
        );
    }

    [Fact]
    public async Task MessagesAndEventsGoToTheChat()
    {
        Assert.Null(
            (
                await NotifyAsync(
                    """{"connection": "open", "path": "chat/rooms/night", "json": {"text": "the west depot failed"}}"""
                )
            ).Error
        );
        Assert.Null(
            (
                await NotifyAsync(
                    """{"connection": "open", "path": "chat/rooms/events", "event": {"type": "example.larkmoor.night.closed", "subject": "2026-11-22", "data": {"litres": 5}}}"""
                )
            ).Error
        );
        var messages = Out(await HttpAsync("""{"connection": "open", "path": "chat/messages"}"""), "value").AsList;
        Assert.Equal(
            """{"text":"the west depot failed"}""",
            ValueJson.ToText(messages[0].AsMap.Find("content")!.Value)
        );
        var e = messages[1].AsMap;
        Assert.StartsWith("application/cloudevents+json", e.Find("type")!.Value.AsString);
        var content = e.Find("content")!.Value.AsMap;
        Assert.Equal(
            "1.0 example.larkmoor.night.closed 2026-11-22",
            string.Join(' ', new[] { "specversion", "type", "subject" }.Select(n => content.Find(n)!.Value.AsString))
        );
    }
}
