namespace GateChain.StandIns;

/// <summary>
/// What can be made to go wrong, for each of the stand-ins: <c>lab</c>, <c>compute</c>, <c>chat</c>. Thread-safe.
/// </summary>
public sealed class Knobs
{
    readonly Lock _lock = new();

    /// <summary>How many of the next requests are answered with 503 and Retry-After: 1.</summary>
    public Dictionary<string, int> FailNext { get; } = [];

    /// <summary>How long an answer takes, in milliseconds.</summary>
    public Dictionary<string, int> SlowMs { get; } = [];

    /// <summary>How long a job of the compute service takes, in milliseconds.</summary>
    public int JobMs { get; set; } = 1_500;

    /// <summary>How many of the next jobs fail.</summary>
    public int FailJobs { get; set; }

    /// <summary>How many of the next jobs are forgotten half way.</summary>
    public int LoseJobs { get; set; }

    /// <summary>What is changed; the rest stays.</summary>
    public sealed record Turn(string? Service, int? FailNext, int? SlowMs, int? JobMs, int? FailJobs, int? LoseJobs);

    public Knobs Set(Turn turn)
    {
        lock (_lock)
        {
            if (turn.Service is { } service)
            {
                if (turn.FailNext is { } fail)
                    FailNext[service] = fail;
                if (turn.SlowMs is { } slow)
                    SlowMs[service] = slow;
            }
            (JobMs, FailJobs, LoseJobs) = (turn.JobMs ?? JobMs, turn.FailJobs ?? FailJobs, turn.LoseJobs ?? LoseJobs);
        }
        return this;
    }

    /// <summary>Takes one of a number that counts down.</summary>
    public bool Take(Func<Knobs, int> read, Action<Knobs, int> write)
    {
        lock (_lock)
        {
            var left = read(this);
            if (left <= 0)
                return false;
            write(this, left - 1);
            return true;
        }
    }

    /// <summary>Makes an endpoint slow, or fail, as its service's knobs say.</summary>
    public async ValueTask<object?> Apply(
        string service,
        EndpointFilterInvocationContext context,
        EndpointFilterDelegate next
    )
    {
        if (SlowMs.GetValueOrDefault(service) is > 0 and var ms)
            await Task.Delay(ms, context.HttpContext.RequestAborted);
        if (Take(k => k.FailNext.GetValueOrDefault(service), (k, n) => k.FailNext[service] = n))
        {
            context.HttpContext.Response.Headers.RetryAfter = "1";
            return Results.Problem(statusCode: 503, detail: "the stand-in was told to fail");
        }
        return await next(context);
    }
}
