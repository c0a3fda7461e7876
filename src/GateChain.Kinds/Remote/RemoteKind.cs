using System.Net;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Expressions;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Http;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Remote;

/// <summary>
/// Hands a job to another service, follows it and takes its result. After a crash it continues with the job that is
/// under way.
/// </summary>
public sealed class RemoteKind : StepKind<RemoteSettings>
{
    // A service that does not answer for a while is not a job that has failed.
    const int Patience = 5;

    public override KindDescription Description => Described;

    /// <summary>What the core knows of it; there without an instance.</summary>
    public static KindDescription Described { get; } =
        new(
            "remote",
            "Hands a long job to another service, follows it and takes its result.",
            SettingsShape.Of<RemoteSettings>(),
            new Dictionary<string, CelType>
            {
                ["state"] = CelType.String,
                ["value"] = CelType.Dyn,
                ["job"] = CelType.String,
                ["log"] = CelType.String,
            }
        )
        {
            Tells = "{path}",
            Sample = new Dictionary<string, Value>
            {
                ["state"] = Value.String("succeeded"),
                ["value"] = Value.EmptyMap,
                ["job"] = Value.String("https://compute.larkmoor.example/jobs/1"),
                ["log"] = Value.String(""),
            },
        };

    protected override async ValueTask<AttemptResult> RunAsync(
        RemoteSettings settings,
        AttemptContext context,
        CancellationToken cancel
    )
    {
        Uri? job = null;
        try
        {
            using var http = HttpConnection.Of(settings.Connection, context);
            var ticket = new JobTicket(context);
            try
            {
                job = ticket.Read() is { } known
                    ? Known(known, context)
                    : await HandInAsync(http, settings, ticket, context, cancel).ConfigureAwait(false);
                return await FollowAsync(http, settings, job, ticket, context, cancel).ConfigureAwait(false);
            }
            catch (OperationCanceledException) when (cancel.IsCancellationRequested)
            {
                if (job is null || !settings.Cancel)
                {
                    return AttemptResult.Fail(
                        "stopped",
                        "ended early",
                        job is null ? null : $"The job continues at {job}."
                    );
                }
                await CancelAsync(http, job, ticket, context).ConfigureAwait(false);
                return AttemptResult.Fail("stopped", "ended early; the job was cancelled");
            }
        }
        catch (Exception e) when (HttpErrors.Of(e) is { } error)
        {
            return new(
                Value.EmptyMap,
                job is null
                    ? error
                    : error with
                    {
                        Detail = $"{error.Detail}\nThe job: {job}. The next attempt continues with it.".TrimStart(),
                    }
            );
        }
    }

    static Uri Known(Uri job, AttemptContext context)
    {
        context.Log.Note($"the job is under way already: {job}");
        return job;
    }

    static async Task<Uri> HandInAsync(
        HttpConnection http,
        RemoteSettings settings,
        JobTicket ticket,
        AttemptContext context,
        CancellationToken cancel
    )
    {
        var address = http.Address(settings.Path);
        // The same name after a crash: a service that has taken the job gives the same job again.
        using var response = await http.SendAsync(
                () =>
                    new(HttpMethod.Post, address)
                    {
                        Content = new StringContent(
                            ValueJson.ToText(settings.Json),
                            System.Text.Encoding.UTF8,
                            "application/json"
                        ),
                        Headers = { { "Idempotency-Key", context.WorkKey.ToString() } },
                    },
                HttpCompletionOption.ResponseContentRead,
                cancel
            )
            .ConfigureAwait(false);
        var text = await response.Content.ReadAsStringAsync(cancel).ConfigureAwait(false);
        if (!response.IsSuccessStatusCode)
        {
            throw new StepFailedException(
                "status",
                $"{address.GetLeftPart(UriPartial.Path)} does not take the job: "
                    + $"{(int)response.StatusCode} {response.ReasonPhrase}",
                text.Length > 0 ? text[..Math.Min(text.Length, 2000)] : null
            );
        }
        var at = response.Headers.Location?.ToString()
            ?? (
                ValueJson.TryParse(text) is { } answer && HttpKind.Field(answer, settings.At) is { IsNull: false } field
                    ? ValueText.ToPlainString(field)
                    : null
            )
            ?? throw new StepFailedException(
                "answer",
                $"the answer says neither in Location nor in “{settings.At}” where to ask about the job",
                text[..Math.Min(text.Length, 500)]
            );
        var job = http.Address(new Uri(address, at).ToString());
        ticket.Write(job);
        context.Log.Note($"handed in: {job}");
        return job;
    }

    static async Task<AttemptResult> FollowAsync(
        HttpConnection http,
        RemoteSettings settings,
        Uri job,
        JobTicket ticket,
        AttemptContext context,
        CancellationToken cancel
    )
    {
        var (last, misses) = ("", 0);
        while (true)
        {
            var wait = settings.Every;
            try
            {
                using var response = await http.SendAsync(
                        () => new(HttpMethod.Get, job),
                        HttpCompletionOption.ResponseContentRead,
                        cancel
                    )
                    .ConfigureAwait(false);
                // A server may ask for more patience, not for less.
                if (HttpConnection.Patience(response, context.Time) is { } asked && asked > wait)
                    wait = asked;
                if (response.StatusCode is HttpStatusCode.NotFound or HttpStatusCode.Gone)
                {
                    ticket.Forget();
                    return AttemptResult.Fail(
                        "lost",
                        $"the service does not know the job any more: {job}",
                        "Another attempt hands it in again."
                    );
                }
                if ((int)response.StatusCode < 500 && response.StatusCode != HttpStatusCode.TooManyRequests)
                {
                    misses = 0;
                    var text = await response.Content.ReadAsStringAsync(cancel).ConfigureAwait(false);
                    if (ValueJson.TryParse(text) is not { } answer)
                    {
                        return AttemptResult.Fail(
                            "answer",
                            "what the service says about the job is not JSON",
                            text[..Math.Min(text.Length, 500)]
                        );
                    }
                    var state = HttpKind.Field(answer, settings.State) is { IsNull: false } found
                        ? ValueText.ToPlainString(found)
                        : "";
                    if (state != last)
                        context.Log.Note($"the job is {(state.Length == 0 ? $"without “{settings.State}”" : state)}");
                    last = state;
                    if (
                        await EndAsync(http, settings, job, state, answer, ticket, cancel).ConfigureAwait(false) is
                        { } result
                    )
                    {
                        return result;
                    }
                }
                else if (++misses > Patience)
                {
                    return AttemptResult.Fail(
                        "status",
                        $"the service answers {(int)response.StatusCode} {response.ReasonPhrase} again and again",
                        $"The job: {job}. The next attempt continues with it."
                    );
                }
            }
            catch (HttpRequestException) when (++misses <= Patience)
            {
                context.Log.Note("the service does not answer; it is asked again");
            }
            await Task.Delay(wait, context.Time, cancel).ConfigureAwait(false);
        }
    }

    // Words of an end, whatever a service calls it: who waits on for another one waits for ever.
    static readonly HashSet<string> Ends = new(StringComparer.OrdinalIgnoreCase)
    {
        "done",
        "finished",
        "complete",
        "completed",
        "success",
        "successful",
        "succeeded",
        "ok",
        "error",
        "errored",
        "failed",
        "failure",
        "aborted",
        "canceled",
        "cancelled",
        "killed",
        "dead",
        "expired",
        "timeout",
        "timedout",
        "timed_out",
        "rejected",
    };

    static AttemptResult Unknown(RemoteSettings settings, string state, JobTicket ticket, (string, Value)[] told)
    {
        ticket.Forget();
        return new(
            Value.Map(told),
            new(
                "state",
                $"the job has ended “{state}”, and neither “succeeded” ("
                    + $"{string.Join(", ", settings.Succeeded)}) nor “failed” ("
                    + $"{string.Join(", ", settings.Failed)}) names that",
                "Say what it means: succeeded: [" + state + "], or the same under failed."
            )
        );
    }

    static async Task<AttemptResult?> EndAsync(
        HttpConnection http,
        RemoteSettings settings,
        Uri job,
        string state,
        Value answer,
        JobTicket ticket,
        CancellationToken cancel
    )
    {
        var log = HttpKind.Field(answer, settings.Log) is { IsNull: false } at ? ValueText.ToPlainString(at) : "";
        (string, Value)[] told =
        [
            ("state", Value.String(state)),
            ("job", Value.String(job.ToString())),
            ("log", Value.String(log)),
        ];
        if (settings.Failed.Contains(state))
        {
            ticket.Forget();
            var why = HttpKind.Field(answer, settings.Error) is { IsNull: false } error
                ? ValueText.ToPlainString(error)
                : null;
            return new(
                Value.Map(told),
                new(
                    "job",
                    $"the job ended {state}{(why is null ? "" : $": {why}")}",
                    log.Length > 0 ? $"Its log: {log}" : null
                )
            );
        }
        if (!settings.Succeeded.Contains(state))
            return Ends.Contains(state) ? Unknown(settings, state, ticket, told) : null;
        var value = settings.Result is null ? answer : HttpKind.Field(answer, settings.Result) ?? Value.Null;
        if (
            value.Kind == ValueKind.String
            && Uri.TryCreate(job, value.AsString, out var place)
            && (value.AsString.StartsWith('/') || value.AsString.StartsWith("http", StringComparison.Ordinal))
        )
        {
            using var response = await http.SendAsync(
                    () => new(HttpMethod.Get, http.Address(place.ToString())),
                    HttpCompletionOption.ResponseContentRead,
                    cancel
                )
                .ConfigureAwait(false);
            var text = await response.Content.ReadAsStringAsync(cancel).ConfigureAwait(false);
            if (!response.IsSuccessStatusCode)
            {
                throw new StepFailedException(
                    "status",
                    $"the result can't be got from {place}: {(int)response.StatusCode} {response.ReasonPhrase}"
                );
            }
            value = ValueJson.TryParse(text) ?? Value.String(text);
        }
        ticket.Forget();
        return new(Value.Map([.. told, ("value", value)]));
    }

    static async Task CancelAsync(HttpConnection http, Uri job, JobTicket ticket, AttemptContext context)
    {
        try
        {
            using var patience = new CancellationTokenSource(TimeSpan.FromSeconds(5));
            using var response = await http.SendAsync(
                    () => new(HttpMethod.Delete, job),
                    HttpCompletionOption.ResponseHeadersRead,
                    patience.Token
                )
                .ConfigureAwait(false);
            context.Log.Note($"asked to cancel the job: {(int)response.StatusCode} {response.ReasonPhrase}");
            if (response.IsSuccessStatusCode)
                ticket.Forget();
        }
        catch (Exception e) when (e is HttpRequestException or OperationCanceledException)
        {
            context.Log.Note($"the job could not be cancelled: {e.Message}");
        }
    }
}
