using System.Globalization;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Datasets;
using GateChain.Core.Expressions;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Http;

/// <summary>Calls a service over HTTP.</summary>
/// <remarks>Source: RFC 9110; Link, RFC 8288; Retry-After, RFC 9110 section 10.2.3.</remarks>
public sealed class HttpKind : StepKind<HttpSettings>
{
    public override KindDescription Description => Described;

    /// <summary>What the core knows of it; there without an instance.</summary>
    public static KindDescription Described { get; } =
        new(
            "http",
            "Calls a service over HTTP and takes its answer.",
            SettingsShape.Of<HttpSettings>(),
            new Dictionary<string, CelType>
            {
                ["status"] = CelType.Int,
                ["value"] = CelType.Dyn,
                ["headers"] = CelType.Map(CelType.String, CelType.String),
                ["pages"] = CelType.Int,
                ["file"] = CelType.String,
            }
        )
        {
            Tells = "{method} {path}",
            Data = Uses,
            Sample = new Dictionary<string, Value>
            {
                ["status"] = Value.Int(200),
                ["value"] = Value.EmptyMap,
                ["headers"] = Value.EmptyMap,
                ["pages"] = Value.Int(1),
                ["file"] = Value.String(""),
            },
        };

    // What is asked for is read, what is sent is written.
    static IEnumerable<DataUse> Uses(SettingTexts settings)
    {
        if (settings["path"] is not { } path)
            yield break;
        var reads = settings["method"] is null or "get" or "head";
        var address = new Dataset(DataForm.Address, settings["connection"], path);
        yield return new(reads ? DataDirection.Reads : DataDirection.Writes, address);
        if (settings["file"] is { } file)
            yield return DataUse.Reads(DataForm.File, null, file);
        if (settings["saveAs"] is { } saved)
            yield return DataUse.Writes(DataForm.File, null, saved);
    }

    protected override async ValueTask<AttemptResult> RunAsync(
        HttpSettings settings,
        AttemptContext context,
        CancellationToken cancel
    )
    {
        try
        {
            using var http = HttpConnection.Of(settings.Connection, context);
            return settings.Pages is { } pages
                ? await PagesAsync(http, settings, pages, context, cancel).ConfigureAwait(false)
                : await OneAsync(http, settings, context, cancel).ConfigureAwait(false);
        }
        catch (OperationCanceledException) when (cancel.IsCancellationRequested)
        {
            return AttemptResult.Fail("stopped", "ended early; what the server had begun it may have done");
        }
        catch (MissingSecretException e)
        {
            return AttemptResult.Fail("no-secret", e.Message, $"Set it: gatechain secret set {e.Name}");
        }
        catch (IOException e) when (e is not HttpIOException)
        {
            return AttemptResult.Fail("file", e.Message);
        }
        catch (Exception e) when (HttpErrors.Of(e) is { } error)
        {
            return new(Value.EmptyMap, error);
        }
    }

    static async Task<AttemptResult> OneAsync(
        HttpConnection http,
        HttpSettings settings,
        AttemptContext context,
        CancellationToken cancel
    )
    {
        using var response = await SendAsync(
                http,
                settings,
                http.Address(HttpRequests.WithQuery(settings.Path, settings.Query)),
                context,
                cancel
            )
            .ConfigureAwait(false);
        var outputs = new List<(string, Value)>
        {
            ("status", Value.Int((int)response.StatusCode)),
            ("headers", HttpAnswers.Headers(response)),
            ("pages", Value.Int(1)),
        };
        if (settings.SaveAs is { } name)
        {
            var path = context.Resolve(name);
            var bytes = await HttpAnswers.SaveAsync(response, path, settings.MaxBytes, cancel).ConfigureAwait(false);
            context.Log.Note(string.Create(CultureInfo.InvariantCulture, $"{bytes:N0} bytes saved as {path}"));
            outputs.Add(("file", Value.String(path)));
            return new(Value.Map([.. outputs]));
        }
        outputs.Add(("value", await HttpAnswers.ValueAsync(response, settings, cancel).ConfigureAwait(false)));
        return new(Value.Map([.. outputs]));
    }

    static async Task<AttemptResult> PagesAsync(
        HttpConnection http,
        HttpSettings settings,
        HttpPages pages,
        AttemptContext context,
        CancellationToken cancel
    )
    {
        var items = new List<Value>();
        var query = settings.Query.ToDictionary(q => q.Key, q => q.Value);
        if (pages.Next == HttpNext.Number)
            query[pages.Parameter] = pages.First.ToString(CultureInfo.InvariantCulture);
        var address = http.Address(HttpRequests.WithQuery(settings.Path, query));
        for (var page = 1; ; page++)
        {
            if (page > pages.Limit)
            {
                return AttemptResult.Fail(
                    "pages",
                    $"there are more than {pages.Limit} pages",
                    "Raise pages.limit, or ask for less."
                );
            }
            using var response = await SendAsync(http, settings, address, context, cancel).ConfigureAwait(false);
            var answer = await HttpAnswers
                .ValueAsync(response, settings with { Give = HttpGive.Json }, cancel)
                .ConfigureAwait(false);
            var found = pages.Items is null ? answer : Field(answer, pages.Items);
            if (found is not { Kind: ValueKind.List } list)
            {
                return AttemptResult.Fail(
                    "answer",
                    $"page {page} holds no list{(pages.Items is null ? "" : $" in “{pages.Items}”")}"
                );
            }
            items.AddRange(list.AsList);
            var next = Next(http, settings, pages, response, answer, query, page, list.AsList.Count);
            if (next is null)
            {
                context.Log.Note(
                    string.Create(CultureInfo.InvariantCulture, $"{items.Count:N0} items on {page:N0} pages")
                );
                return new(
                    Value.Map(
                        ("status", Value.Int((int)response.StatusCode)),
                        ("headers", HttpAnswers.Headers(response)),
                        ("pages", Value.Int(page)),
                        ("value", Value.List(items))
                    )
                );
            }
            address = next;
        }
    }

    static Uri? Next(
        HttpConnection http,
        HttpSettings settings,
        HttpPages pages,
        HttpResponseMessage response,
        Value answer,
        Dictionary<string, string> query,
        int page,
        int found
    )
    {
        switch (pages.Next)
        {
            case HttpNext.Link:
                return
                    response.Headers.TryGetValues("Link", out var links)
                    && links.Select(WebLink.Next).FirstOrDefault(n => n is not null) is { } next
                    ? Follow(http, response, next)
                    : null;
            case HttpNext.Field:
                return Text(Field(answer, pages.Field)) is { } address ? Follow(http, response, address) : null;
            case HttpNext.Cursor:
                if (Text(Field(answer, pages.Field)) is not { } cursor)
                    return null;
                query[pages.Parameter] = cursor;
                break;
            default:
                if (found == 0)
                    return null;
                query[pages.Parameter] = (pages.First + page).ToString(CultureInfo.InvariantCulture);
                break;
        }
        return http.Address(HttpRequests.WithQuery(settings.Path, query));
    }

    // The next address may be a relative one; it must be of the same server.
    static Uri Follow(HttpConnection http, HttpResponseMessage response, string address) =>
        http.Address(new Uri(response.RequestMessage!.RequestUri!, address).ToString());

    static string? Text(Value? value) =>
        value is { IsNull: false } v && ValueText.ToPlainString(v) is { Length: > 0 } text ? text : null;

    /// <summary>A field of an answer by its path of names.</summary>
    internal static Value? Field(Value answer, string path)
    {
        Value? at = answer;
        foreach (var name in path.Split('.'))
        {
            at = at is { Kind: ValueKind.Map } map ? map.AsMap.Find(name) : null;
        }
        return at;
    }

    // A server that asks for patience is given it, once or twice; a retry rule of the step says what happens then.
    static async Task<HttpResponseMessage> SendAsync(
        HttpConnection http,
        HttpSettings settings,
        Uri address,
        AttemptContext context,
        CancellationToken cancel
    )
    {
        var response = await http.PatientlyAsync(
                () =>
                    http.SendAsync(
                        () => HttpRequests.Of(settings, address, context),
                        HttpCompletionOption.ResponseHeadersRead,
                        cancel
                    ),
                wait => context.Log.Note($"the server is busy and asks to wait for {TimeText.Setting(wait)}"),
                cancel
            )
            .ConfigureAwait(false);
        var status = (int)response.StatusCode;
        context.Log.Note(
            $"{settings.Method.ToString().ToUpperInvariant()} {address.GetLeftPart(UriPartial.Path)}: "
                + $"{status} {response.ReasonPhrase}"
        );
        if (settings.Expect.Count > 0 ? settings.Expect.Contains(status) : response.IsSuccessStatusCode)
        {
            HttpAnswers.MustBe(settings.ExpectType, response);
            return response;
        }
        using (response)
        {
            var body = await HttpAnswers.BodyAsync(response, 64 << 10, cut: true, cancel).ConfigureAwait(false);
            throw new StepFailedException(
                "status",
                $"{address.GetLeftPart(UriPartial.Path)} answers {status} {response.ReasonPhrase}",
                body.Length > 0 ? body[..Math.Min(body.Length, 2000)] : null
            );
        }
    }
}
