using System.Security.Cryptography;
using System.Text;
using GateChain.Core.Triggers;
using GateChain.Core.Values;
using GateChain.Engine.Live;
using GateChain.Engine.Reading;
using GateChain.Kinds.Connections;
using GateChain.Storage;

namespace GateChain.Engine.Triggers;

/// <summary>What a caller of a hook is answered.</summary>
/// <param name="Status">The status of HTTP.</param>
/// <param name="Sentence">What there is to say; null for nothing.</param>
public sealed record HookAnswer(int Status, string? Sentence)
{
    /// <summary>The run that the call has started, now or before; null for none.</summary>
    public long? Run { get; init; }

    /// <summary>How that run ended; null while it has not, or for no run.</summary>
    public string? Outcome { get; init; }

    /// <summary>What the run gave; only when it has ended.</summary>
    public Value? Outputs { get; init; }

    /// <summary>What does not fit, one each.</summary>
    public IReadOnlyList<string> Details { get; init; } = [];
}

/// <summary>Takes the calls of other systems. Thread-safe.</summary>
public sealed class HookService
{
    readonly TriggerParts _parts;
    readonly RunReader _reader;
    readonly RunFeed _feed;
    readonly IRunStore _runs;
    readonly BodySchemas _schemas;

    internal HookService(TriggerParts parts, RunReader reader, RunFeed feed, IRunStore runs)
    {
        (_parts, _reader, _feed, _runs) = (parts, reader, feed, runs);
        _schemas = new(parts.Workspace);
    }

    /// <summary>The largest body, in bytes.</summary>
    public const int MostBody = 1 << 20;

    /// <summary>Who is let in neither learns whether there is such a hook nor what is wrong.</summary>
    static HookAnswer Stranger { get; } =
        new(401, "there is no such hook, or the call does not show that it may use it");

    /// <summary>Takes a call; what is answered is on disk.</summary>
    /// <param name="call">The call.</param>
    /// <param name="cancel">The caller does not wait any more.</param>
    public async Task<HookAnswer> TakeAsync(HookCall call, CancellationToken cancel)
    {
        var trigger = _parts.Triggers.All.FirstOrDefault(t =>
            t.Definition.Source is HookSource source && source.Path == call.Path
        );
        if (trigger is null)
            return Stranger;
        var hook = (HookSource)trigger.Definition.Source;
        if (!MayCall(hook, _parts.Secrets.In(trigger.Definition.Area), call))
            return Stranger;
        if (call.Body.Length > MostBody)
            return new(413, $"a body has {MostBody >> 20} MiB at most");
        if (OutcomeFires.NotArmed(trigger) is { } why)
            return new(503, why);
        var (body, id, problem, isUnknown) = call.Read();
        if (problem is not null)
            return new(isUnknown ? 415 : 422, problem);
        if (_parts.Options.Bounds.Refuse(body) is { } tooBig)
            return new(413, $"the body is too big: {tooBig}");
        if (hook.Accepts is { } file)
        {
            var wrong = await _schemas.RefuseAsync(trigger.Definition.Area, file, call.Body).ConfigureAwait(false);
            if (wrong.Count > 0)
                return new(422, $"the body is not as {file} says") { Details = wrong };
        }
        try
        {
            return await FireAsync(trigger, hook, call, body, id, cancel).ConfigureAwait(false);
        }
        catch (StorageException e)
        {
            return new(503, e.Message);
        }
    }

    bool MayCall(HookSource hook, ISecrets secrets, HookCall call)
    {
        if (hook.IsOpen)
            return true;
        if (hook.Sign.Count > 0)
        {
            return WebhookSignature.Refuse(
                hook.Sign.Select(secrets.Find).OfType<string>(),
                call.Header("webhook-id"),
                call.Header("webhook-timestamp"),
                call.Header("webhook-signature"),
                call.Body,
                _parts.Time.GetUtcNow()
            )
                is null;
        }
        const string Bearer = "Bearer ";
        if (
            call.Header("authorization") is not { } shown
            || !shown.StartsWith(Bearer, StringComparison.OrdinalIgnoreCase)
        )
        {
            return false;
        }
        var given = SHA256.HashData(Encoding.UTF8.GetBytes(shown[Bearer.Length..].Trim()));
        return hook
            .Token.Select(secrets.Find)
            .OfType<string>()
            .Any(t => CryptographicOperations.FixedTimeEquals(SHA256.HashData(Encoding.UTF8.GetBytes(t)), given));
    }

    async Task<HookAnswer> FireAsync(
        Trigger trigger,
        HookSource hook,
        HookCall call,
        Value body,
        string? id,
        CancellationToken cancel
    )
    {
        var key = id is null ? $"call:{Guid.NewGuid():N}" : $"id:{KeyOf(id)}";
        var result = await _parts
            .Desk.FireAsync(
                trigger.Definition,
                new(
                    key,
                    Value.Map(
                        ("trigger", Value.String(trigger.Name)),
                        ("at", Value.Timestamp(_parts.Time.GetUtcNow())),
                        ("id", Value.String(id ?? "")),
                        ("body", body),
                        ("headers", call.ShownHeaders),
                        ("query", call.ShownQuery)
                    )
                )
                {
                    Takes = [key],
                    MayRepeat = id is not null,
                    IsFreeWhenRefused = true,
                }
            )
            .ConfigureAwait(false);
        if (result.Run is not { } run)
        {
            return result.Fate == FireFate.Refused ? new(422, result.Why)
                : result.Busy is { } first ? new(409, result.Why) { Run = first }
                : new(200, result.Why);
        }
        if (result.IsRepeat && await _runs.FindAsync(run).ConfigureAwait(false) is null)
            return new(410, $"run {run}, which this call started, is not kept any more");
        if (await EndAsync(run, result.IsRepeat ? TimeSpan.Zero : hook.Wait, cancel).ConfigureAwait(false) is { } ended)
            return ended;
        return new(202, null) { Run = run };
    }

    // Ids may be as long as headers can.
    static string KeyOf(string id) =>
        id.Length <= 200 ? id : Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(id)));

    /// <summary>How a run ended, when it does within some time; null when it does not.</summary>
    async Task<HookAnswer?> EndAsync(long run, TimeSpan? wait, CancellationToken cancel)
    {
        if (wait is null)
            return null;
        var ended = new TaskCompletionSource(TaskCreationOptions.RunContinuationsAsynchronously);
        using var bell = _feed.SubscribeToNotifications(notification =>
        {
            if (notification.Run == run && notification.End is { ResumeAt: null })
                ended.TrySetResult();
        });
        if (await LookAsync(run).ConfigureAwait(false) is { } already)
            return already;
        if (wait == TimeSpan.Zero)
            return null;
        try
        {
            await ended.Task.WaitAsync(wait.Value, _parts.Time, cancel).ConfigureAwait(false);
        }
        catch (TimeoutException)
        {
            // It continues without the caller.
        }
        return await LookAsync(run).ConfigureAwait(false);
    }

    async Task<HookAnswer?> LookAsync(long run) =>
        await _reader
            .ReadAsync(run, (s, _) => s is { HasEnded: true, ResumeAt: null }
                    ? new HookAnswer(200, s.Error?.Message)
                    {
                        Run = run,
                        Outcome = s.Outcome!.Value.Word(),
                        Outputs = s.Outputs,
                    }
                    : null)
            .ConfigureAwait(false);
}
