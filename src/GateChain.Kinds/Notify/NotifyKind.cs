using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Expressions;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Files;
using GateChain.Kinds.Http;
using GateChain.Kinds.Mail;
using GateChain.Kinds.Settings;
using MimeKit;

namespace GateChain.Kinds.Notify;

/// <summary>Tells people, or other programs.</summary>
public sealed class NotifyKind : StepKind<NotifySettings>
{
    public override KindDescription Description => Described;

    /// <summary>What the core knows of it; there without an instance.</summary>
    public static KindDescription Described { get; } =
        new(
            "notify",
            "Tells people by mail or chat, or other programs by an event.",
            SettingsShape.Of<NotifySettings>(),
            new Dictionary<string, CelType> { ["id"] = CelType.String, ["recipients"] = CelType.Int }
        )
        {
            Tells = "{subject|event|path}",
            Sample = new Dictionary<string, Value> { ["id"] = Value.String("id"), ["recipients"] = Value.Int(1) },
        };

    protected override async ValueTask<AttemptResult> RunAsync(
        NotifySettings settings,
        AttemptContext context,
        CancellationToken cancel
    )
    {
        try
        {
            var connection = context.Connections.Require(settings.Connection);
            if (connection.Type == SmtpConnection.Type.Name)
            {
                return await MailAsync(settings, connection.Open<SmtpSettings>(context.Secrets), context, cancel)
                    .ConfigureAwait(false);
            }
            return await SendAsync(settings, context, cancel).ConfigureAwait(false);
        }
        catch (OperationCanceledException) when (cancel.IsCancellationRequested)
        {
            return AttemptResult.Fail("stopped", "ended early; it may have been sent");
        }
        catch (StepFailedException e)
        {
            return e.Result;
        }
        catch (FileNotFoundException e)
        {
            return AttemptResult.Fail("no-file", $"the file {e.FileName} is not there", "Nothing was sent.");
        }
        catch (ParseException e)
        {
            return AttemptResult.Fail("setting", $"an address can't be read: {e.Message}", "Nothing was sent.");
        }
        catch (Exception e) when ((HttpErrors.Of(e) ?? SmtpConnection.Error(e)) is { } error)
        {
            return new(Value.EmptyMap, error);
        }
    }

    static async Task<AttemptResult> MailAsync(
        NotifySettings settings,
        SmtpSettings server,
        AttemptContext context,
        CancellationToken cancel
    )
    {
        if (settings.To.Count + settings.Cc.Count + settings.Bcc.Count == 0)
            throw new StepFailedException("setting", "a mail needs “to”: who gets it");
        if (string.IsNullOrWhiteSpace(settings.Subject) && settings is { Text: null, Html: null })
        {
            throw new StepFailedException(
                "setting",
                "a mail needs “subject”, “text” or “html”: an empty one says nothing",
                "Nothing was sent."
            );
        }
        using var mail = new MimeMessage();
        mail.From.Add(MailboxAddress.Parse(server.From));
        mail.To.AddRange(settings.To.Select(MailboxAddress.Parse));
        mail.Cc.AddRange(settings.Cc.Select(MailboxAddress.Parse));
        mail.Bcc.AddRange(settings.Bcc.Select(MailboxAddress.Parse));
        mail.Subject = OneLine(settings.Subject ?? "");
        mail.Date = context.Time.GetUtcNow();
        // A mail that is sent again after a crash bears the same name: programs that look at it show it once.
        var name = SHA256.HashData(Encoding.UTF8.GetBytes(context.WorkKey.ToString())).AsSpan(0, 16);
        mail.MessageId = $"{Convert.ToHexStringLower(name)}@gatechain";
        var body = new BodyBuilder
        {
            TextBody = MailText.Of(settings.Text, settings.Bind, html: false, context),
            HtmlBody = MailText.Of(settings.Html, settings.Bind, html: true, context),
        };
        foreach (var path in settings.Attach.SelectMany(a => Attached(a, context, cancel)))
        {
            var part = await body.Attachments.AddAsync(path, cancel).ConfigureAwait(false);
            // Programs that open a text without a word about it take it for their own code page.
            if (
                part is MimePart { Content: { } content }
                && part.ContentType.IsMimeType("text", "*")
                && await IsUtf8Async(content, cancel).ConfigureAwait(false)
            )
            {
                part.ContentType.Charset = "utf-8";
            }
        }
        mail.Body = body.ToMessageBody();
        using var client = await SmtpConnection.OpenAsync(server, cancel).ConfigureAwait(false);
        await client.SendAsync(mail, cancel).ConfigureAwait(false);
        await client.DisconnectAsync(true, cancel).ConfigureAwait(false);
        var recipients = mail.To.Count + mail.Cc.Count + mail.Bcc.Count;
        context.Log.Note(
            $"mail “{mail.Subject}” sent to "
                + $"{string.Join(", ", mail.To.Concat(mail.Cc).Select(a => a.ToString()))}"
                + $"{(mail.Bcc.Count > 0 ? $" and {mail.Bcc.Count} more" : "")}"
        );
        return new(Value.Map(("id", Value.String(mail.MessageId)), ("recipients", Value.Int(recipients))));
    }

    static IEnumerable<string> Attached(string path, AttemptContext context, CancellationToken cancel)
    {
        if (!NamePattern.Is(path))
            return [context.Resolve(path)];
        var found = FilePattern.Match(context.Folders, context.WorkFolder, path, cancel);
        return found.Count > 0
            ? found.Select(f => f.FullName)
            : throw new StepFailedException("no-file", $"no file is like “{path}”, which the mail was to have with it");
    }

    static async Task<bool> IsUtf8Async(IMimeContent content, CancellationToken cancel)
    {
        using var bytes = new MemoryStream();
        await content.DecodeToAsync(bytes, cancel).ConfigureAwait(false);
        return System.Text.Unicode.Utf8.IsValid(bytes.GetBuffer().AsSpan(0, (int)bytes.Length));
    }

    // A line break in a subject would begin another header.
    static string OneLine(string text) => text.ReplaceLineEndings(" ");

    static async Task<AttemptResult> SendAsync(
        NotifySettings settings,
        AttemptContext context,
        CancellationToken cancel
    )
    {
        using var http = HttpConnection.Of(settings.Connection, context);
        var id = context.WorkKey.ToString();
        var (text, type) = settings switch
        {
            { Event: { } e } => (ValueJson.ToText(Event(e, id, context)), "application/cloudevents+json"),
            { Json.Kind: not ValueKind.Null } => (ValueJson.ToText(settings.Json), "application/json"),
            _ => throw new StepFailedException("setting", "a message over http needs “json” or “event”"),
        };
        var address = http.Address(settings.Path);
        using var response = await http.SendAsync(
                () =>
                    new(HttpMethod.Post, address)
                    {
                        Content = new StringContent(text, Encoding.UTF8, type),
                        Headers = { { "Idempotency-Key", id } },
                    },
                HttpCompletionOption.ResponseContentRead,
                cancel
            )
            .ConfigureAwait(false);
        if (!response.IsSuccessStatusCode)
        {
            throw new StepFailedException(
                "status",
                $"{address.GetLeftPart(UriPartial.Path)} answers {(int)response.StatusCode} {response.ReasonPhrase}",
                await response.Content.ReadAsStringAsync(cancel).ConfigureAwait(false) is { Length: > 0 } body
                    ? body[..Math.Min(2000, body.Length)]
                    : null
            );
        }
        context.Log.Note(
            $"sent to {address.GetLeftPart(UriPartial.Path)}: {(int)response.StatusCode} {response.ReasonPhrase}"
        );
        return new(Value.Map(("id", Value.String(id)), ("recipients", Value.Int(1))));
    }

    static Value Event(NotifyEvent e, string id, AttemptContext context)
    {
        var parts = new List<KeyValuePair<string, Value>>
        {
            new("specversion", Value.String("1.0")),
            new("id", Value.String(id)),
            new("type", Value.String(e.Type)),
            new("source", Value.String(e.Source)),
            new(
                "time",
                Value.String(context.Time.GetUtcNow().ToString("yyyy-MM-ddTHH:mm:ss'Z'", CultureInfo.InvariantCulture))
            ),
            new("datacontenttype", Value.String("application/json")),
        };
        if (e.Subject is { } subject)
            parts.Add(new("subject", Value.String(subject)));
        if (e.Data.Kind != ValueKind.Null)
            parts.Add(new("data", e.Data));
        return Value.Map(DictionaryMap.Of(parts));
    }
}
