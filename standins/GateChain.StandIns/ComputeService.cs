using System.Collections.Concurrent;
using System.Globalization;
using System.Text.Json;

namespace GateChain.StandIns;

/// <summary>
/// Somebody else's computer: takes a job, works on it for a while, and gives its result. It can be slow, lose jobs, and
/// fail.
/// </summary>
static class ComputeService
{
    sealed record Job(int Number, JsonElement Order, DateTimeOffset Taken, bool Fails, bool Lost)
    {
        public bool Cancelled { get; set; }
    }

    public static void Map(RouteGroupBuilder compute, Knobs knobs)
    {
        var jobs = new ConcurrentDictionary<int, Job>();
        var keys = new ConcurrentDictionary<string, int>();
        var last = 0;
        compute.AddEndpointFilter((context, next) => knobs.Apply("compute", context, next));
        compute.MapGet("/", () => $"Larkmoor compute service (a stand-in), {jobs.Count} jobs so far");
        compute.MapGet("/count", () => jobs.Count);
        compute.MapPost("/jobs", (HttpRequest request, HttpResponse response, JsonElement order) =>
        {
            // The same name gives the same job.
            var key = request.Headers["Idempotency-Key"].ToString();
            var number = keys.GetOrAdd(key.Length > 0 ? key : Guid.NewGuid().ToString(), _ =>
                Interlocked.Increment(ref last)
            );
            jobs.GetOrAdd(number, n =>
                new(
                    n,
                    order.Clone(),
                    DateTimeOffset.UtcNow,
                    knobs.Take(k => k.FailJobs, (k, left) => k.FailJobs = left),
                    knobs.Take(k => k.LoseJobs, (k, left) => k.LoseJobs = left)
                )
            );
            response.Headers.Location = $"/compute/jobs/{number}";
            return Results.Accepted($"/compute/jobs/{number}", new { location = $"/compute/jobs/{number}" });
        });
        compute.MapGet("/jobs/{number:int}", (int number, HttpResponse response) =>
        {
            if (!jobs.TryGetValue(number, out var job))
                return Results.NotFound();
            var age = (DateTimeOffset.UtcNow - job.Taken).TotalMilliseconds;
            if (job.Lost && age > knobs.JobMs / 2.0)
            {
                // It is forgotten with its name: handed in again, it is a new job.
                foreach (var key in keys.Where(k => k.Value == number))
                    keys.TryRemove(key.Key, out _);
                return Results.NotFound();
            }
            var state =
                job.Cancelled ? "cancelled"
                : age < knobs.JobMs ? "running"
                : job.Fails ? "failed"
                : "succeeded";
            return Results.Json(
                new
                {
                    state,
                    log = $"/compute/jobs/{number}/log",
                    error = state == "failed" ? "the model does not converge" : null,
                    result = state == "succeeded" ? $"/compute/jobs/{number}/result" : null,
                }
            );
        });
        compute.MapGet("/jobs/{number:int}/result", (int number) =>
            jobs.TryGetValue(number, out var job)
                ? Results.Json(new { order = job.Order, score = Math.Round(60 + number * 7.5 % 40, 1) })
                : Results.NotFound()
        );
        compute.MapGet("/jobs/{number:int}/log", (int number) =>
            string.Create(CultureInfo.InvariantCulture, $"job {number}: fitted 47 samples in 12 rounds\n")
        );
        compute.MapDelete("/jobs/{number:int}", (int number) =>
        {
            if (!jobs.TryGetValue(number, out var job))
                return Results.NotFound();
            job.Cancelled = true;
            return Results.NoContent();
        });
    }
}
