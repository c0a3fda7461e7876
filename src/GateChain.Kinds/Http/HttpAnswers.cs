using System.Globalization;
using System.Text;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Data;
using GateChain.Kinds.Files;

namespace GateChain.Kinds.Http;

/// <summary>What comes back: answers as values, texts and files.</summary>
static class HttpAnswers
{
    const long MostIntoOutput = 10 << 20;

    /// <summary>The headers of an answer, by name in small letters.</summary>
    public static Value Headers(HttpResponseMessage response) =>
        Value.Map(
            DictionaryMap.Of(
                response
                    .Headers.Concat(response.Content.Headers)
                    .Select(h =>
                        KeyValuePair.Create(h.Key.ToLowerInvariant(), Value.String(string.Join(", ", h.Value)))
                    )
            )
        );

    /// <summary>Fails when an answer has another media type; then it is disposed of.</summary>
    /// <param name="expected">The type, <c>text/*</c> for any of its kind; null for all.</param>
    /// <exception cref="StepFailedException">It has.</exception>
    public static void MustBe(string? expected, HttpResponseMessage response)
    {
        var type = response.Content.Headers.ContentType?.MediaType;
        if (
            expected is null
            || (
                expected.EndsWith("/*", StringComparison.Ordinal)
                    ? type?.StartsWith(expected[..^1], StringComparison.OrdinalIgnoreCase) == true
                    : string.Equals(type, expected, StringComparison.OrdinalIgnoreCase)
            )
        )
        {
            return;
        }
        response.Dispose();
        throw new StepFailedException(
            "type",
            $"the answer is {(type is null ? "of no type" : type)}, and {expected} is expected",
            "It may be a page that asks to sign in, or tells of a mistake. See the address and who asks."
        );
    }

    /// <summary>The body of an answer as a value, as the settings or its type say.</summary>
    public static async Task<Value> ValueAsync(
        HttpResponseMessage response,
        HttpSettings settings,
        CancellationToken cancel
    )
    {
        var type = response.Content.Headers.ContentType?.MediaType ?? "";
        var give = settings.Give
            ?? (
                type.EndsWith("json", StringComparison.Ordinal) ? HttpGive.Json
                : type.StartsWith("text/", StringComparison.Ordinal) ? HttpGive.Text
                : HttpGive.None
            );
        if (give == HttpGive.None)
            return Value.Null;
        var text = await BodyAsync(response, settings.MaxBytes ?? MostIntoOutput, cut: false, cancel)
            .ConfigureAwait(false);
        if (give == HttpGive.Text)
            return Value.String(text);
        return text.Length == 0
            ? Value.Null
            : ValueJson.TryParse(text, exact: settings.Numbers == NumberRule.Exact)
                ?? throw new StepFailedException(
                    "answer",
                    "the answer is not JSON",
                    text[..Math.Min(text.Length, 500)]
                );
    }

    /// <summary>The body of an answer as text.</summary>
    public static async Task<string> BodyAsync(
        HttpResponseMessage response,
        long most,
        bool cut,
        CancellationToken cancel
    )
    {
        await using var stream = await response.Content.ReadAsStreamAsync(cancel).ConfigureAwait(false);
        using var bytes = new MemoryStream();
        var buffer = new byte[16 << 10];
        int read;
        while ((read = await stream.ReadAsync(buffer, cancel).ConfigureAwait(false)) > 0)
        {
            bytes.Write(buffer, 0, read);
            if (bytes.Length <= most)
                continue;
            if (cut)
                break;
            throw new StepFailedException(
                "size",
                string.Create(CultureInfo.InvariantCulture, $"the answer is larger than {most:N0} bytes"),
                "Save it with saveAs, or raise maxBytes."
            );
        }
        var charset = response.Content.Headers.ContentType?.CharSet?.Trim('"');
        return (charset is "iso-8859-1" or "ISO-8859-1" ? Encoding.Latin1 : Encoding.UTF8)
            .GetString(bytes.GetBuffer(), 0, (int)bytes.Length)
            .TrimStart('\uFEFF');
    }

    /// <summary>Saves the body of an answer, whole or not at all. Gives its length in bytes.</summary>
    public static async Task<long> SaveAsync(
        HttpResponseMessage response,
        string path,
        long? most,
        CancellationToken cancel
    )
    {
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        var part = WholeFile.PartOf(path);
        long length = 0;
        try
        {
            await using (var file = new FileStream(part, FileMode.CreateNew, FileAccess.Write))
            {
                await using var stream = await response.Content.ReadAsStreamAsync(cancel).ConfigureAwait(false);
                var buffer = new byte[64 << 10];
                int read;
                while ((read = await stream.ReadAsync(buffer, cancel).ConfigureAwait(false)) > 0)
                {
                    length += read;
                    if (length > most)
                    {
                        throw new StepFailedException(
                            "size",
                            string.Create(CultureInfo.InvariantCulture, $"the answer is larger than {most:N0} bytes")
                        );
                    }
                    await file.WriteAsync(buffer.AsMemory(0, read), cancel).ConfigureAwait(false);
                }
                file.Flush(flushToDisk: true);
            }
            File.Move(part, path, overwrite: true);
            return length;
        }
        finally
        {
            WholeFile.End(part);
        }
    }
}
