using System.CommandLine;
using GateChain.Core.Expressions;
using YamlDotNet.Core;
using YamlDotNet.RepresentationModel;

namespace GateChain.Cli.Commands;

/// <summary>An option of <c>serve</c>, what holds for it, and from where.</summary>
/// <param name="Name">Its name without the strokes.</param>
/// <param name="Values">What holds; none where nothing was said.</param>
/// <param name="From">Where it was said: an option, a variable of the environment, a file, or nowhere.</param>
sealed record ServeSetting(string Name, IReadOnlyList<string> Values, string From);

/// <summary>
/// What holds for <c>serve</c>: an option on the command line, else a variable of the environment, else the
/// configuration's file, else the default. One order for all of them.
/// </summary>
static class ServeSettings
{
    /// <summary>The configuration that is read where none is named, if it is there.</summary>
    public const string Usual = "/etc/gatechain/gatechain.yaml";

    const string Prefix = "GATECHAIN_";

    /// <summary>The option that names the file.</summary>
    public static Option<string?> Config { get; } =
        new("--config")
        {
            Description =
                $"File of options, `listen: https://…`; {Prefix}CONFIG, or {Usual} if it is there, when absent. An "
                + $"option here, and a variable {Prefix}LISTEN, count before it",
        };

    /// <summary>The variable of an option: <c>GATECHAIN_BEHIND_PROXY</c>.</summary>
    public static string VariableOf(string name) => Prefix + name.ToUpperInvariant().Replace('-', '_');

    /// <summary>Each option with what holds for it.</summary>
    /// <exception cref="FormatException">The file can't be read, or says something that no option is.</exception>
    public static IReadOnlyList<ServeSetting> Of(ParseResult parsed)
    {
        var named = parsed
            .CommandResult.Command.Options.Where(o => o != Config && o != ServiceCommand.Json)
            .ToDictionary(o => o.Name.TrimStart('-'));
        var file = FileOf(parsed);
        var said = file is null ? [] : Read(file);
        foreach (var name in said.Keys.Where(n => !named.ContainsKey(n)))
            throw new FormatException($"{file}: there is no option “{name}”{Nearest.Hint(name, named.Keys)}");
        return
        [
            .. named.Select(o =>
                parsed.GetResult(o.Value) is { Implicit: false } given
                    ? new ServeSetting(o.Key, [.. given.Tokens.Select(t => t.Value)], "option")
                : Environment.GetEnvironmentVariable(VariableOf(o.Key)) is { Length: > 0 } variable
                    ? new ServeSetting(o.Key, Split(o.Value, variable), VariableOf(o.Key))
                : said.TryGetValue(o.Key, out var values) ? new ServeSetting(o.Key, values, file!)
                : new ServeSetting(o.Key, Default(parsed, o.Value), "")
            ),
        ];
    }

    static string? FileOf(ParseResult parsed) =>
        parsed.GetValue(Config)
        ?? (Environment.GetEnvironmentVariable($"{Prefix}CONFIG") is { Length: > 0 } named ? named : null)
        ?? (File.Exists(Usual) ? Usual : null);

    // Several stand in a variable with spaces between them.
    static IReadOnlyList<string> Split(Option option, string text) =>
        option.Arity.MaximumNumberOfValues > 1
            ? text.Split(' ', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries)
            : [text];

    static IReadOnlyList<string> Default(ParseResult parsed, Option option) =>
        parsed.GetResult(option) is { Implicit: true } && option.HasDefaultValue && option is Option<string> text
            ? [parsed.GetValue(text)!]
            : [];

    static Dictionary<string, IReadOnlyList<string>> Read(string file)
    {
        var found = new Dictionary<string, IReadOnlyList<string>>(StringComparer.Ordinal);
        try
        {
            var stream = new YamlStream();
            using (var text = new StreamReader(file))
                stream.Load(text);
            if (stream.Documents is not [{ RootNode: YamlMappingNode root }])
                throw new FormatException($"{file}: write options in lines, listen: http://127.0.0.1:8480");
            foreach (var (key, value) in root.Children)
            {
                var name = (key as YamlScalarNode)?.Value ?? "";
                found[name] = value switch
                {
                    YamlScalarNode scalar => [scalar.Value ?? ""],
                    YamlSequenceNode list when list.All(n => n is YamlScalarNode) =>
                    [
                        .. list.Select(n => ((YamlScalarNode)n).Value ?? ""),
                    ],
                    _ => throw new FormatException($"{file}:{value.Start.Line}: “{name}” is a text or a list of texts"),
                };
            }
        }
        catch (YamlException e)
        {
            throw new FormatException($"{file}:{e.Start.Line}:{e.Start.Column}: {e.Message}");
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new FormatException($"{file} can't be read: {e.Message}");
        }
        return found;
    }

    /// <summary>The command line that says the same without a variable or file.</summary>
    public static string[] Line(IEnumerable<ServeSetting> settings) =>
        [
            "serve",
            // An option that is on or off has its word behind it.
            .. settings
                .Where(s => s.From.Length > 0)
                .SelectMany(s => s.Values.Count == 0 ? [$"--{s.Name}"] : s.Values.Select(v => $"--{s.Name}={v}")),
        ];
}
