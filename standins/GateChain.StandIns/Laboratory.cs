namespace GateChain.StandIns;

/// <summary>
/// The laboratory: fat, protein and cell count of each sample, page by page. Who asks says so by a token; a token is
/// given for a client's name and secret.
/// </summary>
static class Laboratory
{
    public const string Token = "made-up-lab-token",
        Client = "larkmoor",
        Secret = "made-up-lab-secret";

    public sealed record Sample(string Id, string Farm, double Fat, double Protein, int Cells);

    public static void Map(RouteGroupBuilder lab, Knobs knobs)
    {
        lab.AddEndpointFilter((context, next) => knobs.Apply("lab", context, next));
        lab.MapGet("/", () => "Larkmoor laboratory (a stand-in)");
        lab.MapPost("/token", (HttpRequest request) => request.Headers.Authorization.ToString()
            == "Basic " + Convert.ToBase64String(System.Text.Encoding.UTF8.GetBytes($"{Client}:{Secret}"))
                ? Results.Json(
                    new
                    {
                        access_token = Token,
                        token_type = "Bearer",
                        expires_in = 600,
                    }
                )
                : Results.Unauthorized());
        lab.MapGet("/samples", (HttpRequest request, HttpResponse response, string? day, int? page, int? size) =>
        {
            if (request.Headers.Authorization != "Bearer " + Token)
                return Results.Unauthorized();
            var (at, most) = (Math.Max(1, page ?? 1), Math.Clamp(size ?? 20, 1, 500));
            var all = Samples(day ?? "2026-11-22");
            if (at * most < all.Count)
                response.Headers.Link = $"</lab/samples?day={day}&page={at + 1}&size={most}>; rel=\"next\"";
            return Results.Json(
                new
                {
                    samples = all.Skip((at - 1) * most).Take(most),
                    next = at * most < all.Count ? $"/lab/samples?day={day}&page={at + 1}&size={most}" : null,
                    cursor = at * most < all.Count ? $"{at + 1}" : null,
                }
            );
        });
    }

    // The same day has the same samples.
    static List<Sample> Samples(string day)
    {
        var chance = new Random(day.Aggregate(17, (h, c) => h * 31 + c));
        return
        [
            .. Enumerable
                .Range(1, 47)
                .Select(i => new Sample(
                    $"S{i:000}",
                    $"F{chance.Next(1, 30):00}",
                    Math.Round(3.6 + chance.NextDouble(), 2),
                    Math.Round(3.1 + chance.NextDouble() / 2, 2),
                    chance.Next(60, 400) * 1000
                )),
        ];
    }
}
