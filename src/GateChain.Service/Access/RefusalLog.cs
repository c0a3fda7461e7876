using System.Collections.Concurrent;
using GateChain.Storage;

namespace GateChain.Service.Access;

/// <summary>
/// Writes down what people were refused; the same of the same person once a minute, so that nobody fills the disk.
/// Thread-safe.
/// </summary>
sealed class RefusalLog(IAuditLog audit, TimeProvider time, ILogger<RefusalLog> logger)
{
    const int MostKept = 5_000;

    static readonly TimeSpan Once = TimeSpan.FromMinutes(1);

    readonly ConcurrentDictionary<(string Who, string What), DateTimeOffset> _told = new();

    public async Task TellAsync(HttpContext http, string why)
    {
        var actor = Visitor.Of(http).Actor;
        var path = http.Request.Path.ToString();
        var what = $"{http.Request.Method} {path[..Math.Min(path.Length, 200)]}";
        var now = time.GetUtcNow();
        if (_told.Count > MostKept)
            _told.Clear();
        if (_told.TryGetValue((actor.Id, what), out var last) && now - last < Once)
            return;
        _told[(actor.Id, what)] = now;
        try
        {
            await audit.AddAsync([new(now, actor, "refuse", what, why)]);
        }
        catch (StorageException e)
        {
            // What is refused stays refused.
            logger.LogWarning("A refusal could not be written to the audit log: {Reason}", e.Message);
        }
    }
}
