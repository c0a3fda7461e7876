using System.Text.Json;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using Microsoft.AspNetCore.Http.Json;
using Microsoft.Extensions.Options;

namespace GateChain.Service.Endpoints;

/// <summary>An answer that is not sent when it is bigger than it may be.</summary>
static class BoundedJson
{
    /// <param name="value">What is answered.</param>
    /// <param name="most">The most bytes.</param>
    /// <param name="what">What it is, for the sentence.</param>
    public static IResult Of<T>(T value, long most, string what) => new Answer<T>(value, most, what);

    sealed class Answer<T>(T value, long most, string what) : IResult
    {
        public async Task ExecuteAsync(HttpContext http)
        {
            var options = http.RequestServices.GetRequiredService<IOptions<JsonOptions>>().Value.SerializerOptions;
            using var body = new Limited(most, what);
            JsonSerializer.Serialize(body, value, options);
            http.Response.ContentType = "application/json; charset=utf-8";
            http.Response.ContentLength = body.Length;
            body.Position = 0;
            await body.CopyToAsync(http.Response.Body, http.RequestAborted);
        }
    }

    // Ends the writing as soon as it is known to be too much.
    sealed class Limited(long most, string what) : MemoryStream
    {
        // Spans come here too: the class hands them on to whoever overrides this.
        public override void Write(byte[] buffer, int offset, int count)
        {
            if (Length + count > most)
            {
                throw new RefusedException(
                    RefusalKind.Invalid,
                    $"{what} has more to tell than {Bounds.Text(most)}; play a smaller part of it, or fewer rounds"
                );
            }
            base.Write(buffer, offset, count);
        }
    }
}
