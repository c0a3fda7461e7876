using GateChain.Core.Values;
using GateChain.Kinds.Data;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Http;

/// <summary>Settings of <c>kind: http</c>.</summary>
public sealed record HttpSettings
{
    [Setting(
        "The connection that says the address and who asks; without one, `path` is a full address.",
        Connection = "http"
    )]
    public string? Connection { get; init; }

    [Setting("The path that is appended to the connection's address.", Required = true)]
    public string Path { get; init; } = "";

    [Setting("The method: `get post put patch delete head`.")]
    public HttpVerb Method { get; init; } = HttpVerb.Get;

    [Setting("Parameters after the `?`.")]
    public IReadOnlyDictionary<string, string> Query { get; init; } = new Dictionary<string, string>();

    [Setting("Headers of the request; values may be `secret:name`.", Secret = true, TakesSecrets = true)]
    public IReadOnlyDictionary<string, string> Headers { get; init; } = new Dictionary<string, string>();

    [Setting("The body, as JSON: an expression.", Expression = true)]
    public Value Json { get; init; }

    [Setting("The body, as the fields of a form.")]
    public IReadOnlyDictionary<string, string> Form { get; init; } = new Dictionary<string, string>();

    [Setting("The body, as text.")]
    public string? Text { get; init; }

    [Setting("The body: the path of a file.")]
    public string? File { get; init; }

    [Setting("The body: texts and files together, as a form that uploads files (multipart/form-data).")]
    public IReadOnlyList<HttpPart> Parts { get; init; } = [];

    [Setting("The body's media type; the usual one of what it is when absent.")]
    public string? ContentType { get; init; }

    [Setting("The statuses that mean success; 200 to 299 when absent.")]
    public IReadOnlyList<int> Expect { get; init; } = [];

    [Setting(
        "The media type that the answer must have, for example `application/json` or `text/*`; another one fails the "
            + "step, as a page that asks to sign in would."
    )]
    public string? ExpectType { get; init; }

    [Setting("What the answer becomes as `result.value`: `json`, `text` or `none`; by its media type when absent.")]
    public HttpGive? Give { get; init; }

    [Setting(
        "What numbers of a JSON answer become that no int holds: `near` makes doubles of them, "
            + "`exact` decimals with all of their digits."
    )]
    public NumberRule Numbers { get; init; } = NumberRule.Near;

    [Setting("The path of a file that gets the answer's body; it is there as a whole or not at all.")]
    public string? SaveAs { get; init; }

    [Setting(
        "The largest answer that is taken, in bytes: 10 MiB into an output when absent, without a limit into a file.",
        Min = 1
    )]
    public long? MaxBytes { get; init; }

    [Setting("How further pages are asked for; `result.value` is a list of the items of all of them then.")]
    public HttpPages? Pages { get; init; }
}

/// <summary>A part of an upload: a text or a file.</summary>
[OneOf("text", "file")]
public sealed record HttpPart
{
    [Setting("The name of the field.", Required = true)]
    public string Name { get; init; } = "";

    [Setting("Its text.")]
    public string? Text { get; init; }

    [Setting("The path of a file.")]
    public string? File { get; init; }

    [Setting("The name that the server is told of the file; its own when absent.")]
    public string? FileName { get; init; }

    [Setting("The part's media type; the usual one of what it is when absent.")]
    public string? ContentType { get; init; }
}

/// <summary>How further pages of an answer are found.</summary>
public sealed record HttpPages
{
    [Setting(
        "The field of the answer that holds the items of a page, for example `data.items`; "
            + "the answer itself when absent."
    )]
    public string? Items { get; init; }

    [Setting(
        "`link` follows the header Link with rel=next, `field` the address in the field `next`, "
            + "`cursor` gives the value of the field `next` back as the parameter `parameter`, "
            + "`number` counts the parameter `parameter` up from `first`."
    )]
    public HttpNext Next { get; init; } = HttpNext.Link;

    [Setting("The field with the next address or cursor.")]
    public string Field { get; init; } = "next";

    [Setting("The parameter with the cursor or the number.")]
    public string Parameter { get; init; } = "page";

    [Setting("The number of the first page.")]
    public int First { get; init; } = 1;

    [Setting("The most pages that are asked for; more is a failure. 1 to 100,000.", Min = 1, Max = 100_000)]
    public int Limit { get; init; } = 1000;
}

public enum HttpVerb
{
    Get,
    Post,
    Put,
    Patch,
    Delete,
    Head,
}

public enum HttpGive
{
    Json,
    Text,
    None,
}

public enum HttpNext
{
    Link,
    Field,
    Cursor,
    Number,
}
