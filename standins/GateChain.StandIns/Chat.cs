using System.Collections.Concurrent;
using System.Net;
using System.Text.Json;

namespace GateChain.StandIns;

/// <summary>The office's chat: takes messages and events, and shows them.</summary>
static class Chat
{
    public sealed record Message(string Room, string Type, JsonElement Content);

    public static void Map(RouteGroupBuilder chat, Knobs knobs)
    {
        var messages = new ConcurrentQueue<Message>();
        chat.AddEndpointFilter((context, next) => knobs.Apply("chat", context, next));
        chat.MapPost("/rooms/{room}", async (string room, HttpRequest request) =>
        {
            using var content = await JsonDocument.ParseAsync(request.Body);
            messages.Enqueue(new(room, request.ContentType ?? "", content.RootElement.Clone()));
            return Results.NoContent();
        });
        // What was uploaded, as it was understood.
        chat.MapPost("/files", async (HttpRequest request) =>
        {
            var form = await request.ReadFormAsync();
            return new
            {
                Fields = form.ToDictionary(f => f.Key, f => f.Value.ToString()),
                Files = form.Files.Select(f => new
                {
                    f.Name,
                    f.FileName,
                    f.ContentType,
                    f.Length,
                }),
            };
        });
        chat.MapGet("/messages", () => messages);
        chat.MapGet("/", () =>
            Results.Content(
                "<!doctype html><title>Larkmoor office</title><h1>Larkmoor office</h1>"
                    + string.Concat(
                        messages.Select(m =>
                            $"<p><b>{WebUtility.HtmlEncode(m.Room)}</b> "
                            + $"{WebUtility.HtmlEncode(m.Content.ToString())}</p>"
                        )
                    ),
                "text/html"
            )
        );
    }
}
