using System.CommandLine;
using System.Text.Json;
using GateChain.Client;

namespace GateChain.Cli.Commands;

/// <summary>A command that calls the service, with the options that all of them have.</summary>
static class ServiceCommand
{
    public static Option<bool> Json { get; } = new("--json", "-j") { Description = "Write JSON, for programs" };

    public static Option<string> Service { get; } =
        new("--service")
        {
            Description =
                "The service's address, or those of several nodes with commas between (also from the environment: "
                + "GATECHAIN_SERVICE)",
            DefaultValueFactory = _ =>
                Environment.GetEnvironmentVariable("GATECHAIN_SERVICE") ?? "http://127.0.0.1:8480",
        };

    public static Option<string?> Token { get; } =
        new("--token")
        {
            Description =
                "A token to sign in with (also from the environment: GATECHAIN_TOKEN); "
                + "what sign-in has kept when absent",
        };

    public static Argument<long> Run { get; } = new("RUN") { Description = "The run's number" };

    public static Argument<string> Step { get; } =
        new("STEP") { Description = "The step's path, for example depots[2]/load" };

    /// <summary>A command that calls the service.</summary>
    public static Command Create(
        string name,
        string description,
        Func<ParseResult, GateChainClient, CancellationToken, Task<int>> run,
        params ReadOnlySpan<Symbol> symbols
    )
    {
        var command = new Command(name, description) { Json, Service, Token };
        foreach (var symbol in symbols)
        {
            if (symbol is Argument argument)
                command.Arguments.Add(argument);
            else
                command.Options.Add((Option)symbol);
        }
        command.SetAction(
            async (parsed, cancel) =>
            {
                using var client = ClientOf(parsed.GetValue(Service), parsed.GetValue(Token));
                return await run(parsed, client, cancel);
            }
        );
        return command;
    }

    /// <summary>Calls the service of an address.</summary>
    /// <param name="address">The address.</param>
    /// <param name="token">The token to sign in with; null for the one that is kept, empty for none.</param>
    /// <exception cref="GateChainException">It is no address.</exception>
    public static GateChainClient ClientOf(string? address, string? token) =>
        (address ?? "")
            .Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
            .Select(one =>
                Uri.TryCreate(one, UriKind.Absolute, out var found)
                    ? found
                    : throw new GateChainException(422, $"“{one}” is not an address", null, [])
            )
            .ToList()
            is { Count: > 0 } found
            ? new(
                found,
                Environment.UserName,
                found.Select(f => SignIns.Find(token, f)).FirstOrDefault(t => t is not null) is { Length: > 0 } shown
                    ? shown
                    : null
            )
            : throw new GateChainException(422, $"“{address}” is not an address", null, []);

    static readonly Option<string?> Message = new("--message", "-m") { Description = "Why; shown with the run" };

    /// <summary>A command that asks something of a run, with a reason, and says what became of it.</summary>
    /// <param name="ask">Asks it, of the run of a number, with the reason.</param>
    /// <param name="sentence">What became of it.</param>
    public static Command CreateForRun(
        string name,
        string description,
        Func<GateChainClient, long, string?, CancellationToken, Task<RunSummary>> ask,
        Func<RunSummary, string> sentence
    ) =>
        Create(
            name,
            description,
            async (parsed, client, cancel) =>
            {
                var run = await ask(client, parsed.GetValue(Run), parsed.GetValue(Message), cancel);
                if (parsed.GetValue(Json))
                    WriteJson(run);
                else
                    Console.WriteLine(sentence(run));
                return ExitCodes.Succeeded;
            },
            Run,
            Message
        );

    static readonly JsonSerializerOptions Indented = new(GateChainClient.Json)
    {
        WriteIndented = true,
        Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    public static void WriteJson(object value) =>
        Console.Out.WriteLine(JsonSerializer.Serialize(value, value.GetType(), Indented));

    /// <summary><c>k=v</c> pairs whose values may be JSON; what is no JSON is text.</summary>
    /// <exception cref="GateChainException">One of them has no <c>=</c>.</exception>
    public static Dictionary<string, JsonElement> JsonPairs(IEnumerable<string>? pairs) =>
        Pairs(pairs)
            .ToDictionary(
                p => p.Key,
                p =>
                {
                    try
                    {
                        using var document = JsonDocument.Parse(p.Value.GetString()!);
                        return document.RootElement.Clone();
                    }
                    catch (JsonException)
                    {
                        return p.Value;
                    }
                }
            );

    /// <summary><c>k=v</c> pairs; the value is text, which the service reads as the type asks.</summary>
    /// <exception cref="GateChainException">One of them has no <c>=</c>.</exception>
    public static Dictionary<string, JsonElement> Pairs(IEnumerable<string>? pairs)
    {
        var values = new Dictionary<string, JsonElement>();
        foreach (var pair in pairs ?? [])
        {
            var equals = pair.IndexOf('=', StringComparison.Ordinal);
            if (equals < 1)
                throw new GateChainException(422, $"“{pair}” is not written name=value", null, []);
            values[pair[..equals]] = JsonSerializer.SerializeToElement(pair[(equals + 1)..]);
        }
        return values;
    }
}
