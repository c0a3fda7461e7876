using System.CommandLine;
using GateChain.Client;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Values;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain kinds</c> and <c>gatechain new-kind</c>: without a service.</summary>
static class KindCommands
{
    static readonly Argument<string?> Which = new("KIND")
    {
        Description = "One kind, with its settings",
        Arity = ArgumentArity.ZeroOrOne,
    };
    static readonly Argument<string> Name = new("NAME")
    {
        Description = "What the kind is called; a folder of that name is made",
    };
    static readonly Option<bool> AsProgram = new("--program")
    {
        Description = "A program with a schema file instead of a C# class",
    };

    public static Command Kinds()
    {
        var command = new Command(
            "kinds",
            "Lists the kinds of steps, those of --plugins included, or shows the settings of one"
        )
        {
            Which,
            ServiceCommand.Json,
        };
        command.SetAction(parsed =>
        {
            var all = PluginFolder.Catalogue.All.ToList();
            if (parsed.GetValue(Which) is not { } name)
            {
                if (parsed.GetValue(ServiceCommand.Json))
                {
                    ServiceCommand.WriteJson(all.Select(k => new { k.Name, k.Doc }).ToList());
                    return ExitCodes.Succeeded;
                }
                foreach (var kind in all.OrderBy(k => k.Name, StringComparer.Ordinal))
                    Console.WriteLine($"{kind.Name, -12} {kind.Doc}");
                return ExitCodes.Succeeded;
            }
            if (PluginFolder.Catalogue.Find(name) is not { } one)
            {
                throw new GateChainException(
                    404,
                    $"there is no kind “{name}”; there are: {string.Join(", ", PluginFolder.Catalogue.Names)}",
                    null,
                    []
                );
            }
            if (parsed.GetValue(ServiceCommand.Json))
            {
                Console.WriteLine(
                    Core.Designing.ChainSchema.OfShape(one.Settings)
                        .ToJsonString(
                            new()
                            {
                                WriteIndented = true,
                                Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
                            }
                        )
                );
            }
            else
            {
                Show(one);
            }
            return ExitCodes.Succeeded;
        });
        return command;
    }

    static void Show(KindDescription kind)
    {
        Console.WriteLine($"{kind.Name}: {kind.Doc}");
        Members(kind.Settings, "  ");
        if (kind.Outputs.Count > 0)
        {
            Console.WriteLine(
                $"\ngives {string.Join(", ", kind.Outputs.Select(o => $"{o.Key} ({o.Value.WithParts})"))}"
            );
        }
    }

    static void Members(SettingShape shape, string indent)
    {
        foreach (var member in shape.Members)
        {
            Console.WriteLine(
                $"{indent}{member.Name}"
                    + (
                        member.Required ? " (required)"
                        : member.Default is { } value ? $" (default {ValueText.ToPlainString(value)})"
                        : ""
                    )
                    + $": {member.Doc}"
            );
            Members(member.Shape, indent + "  ");
            if (member.Shape.Item is { } item)
                Members(item, indent + "  ");
        }
    }

    public static Command New()
    {
        var command = new Command(
            "new-kind",
            "Makes a folder to write a kind of your own in: a C# project, or a program with a schema file"
        )
        {
            Name,
            AsProgram,
        };
        command.SetAction(parsed =>
        {
            var name = parsed.GetValue(Name)!;
            if (!name.All(c => char.IsAsciiLetterOrDigit(c) || c is '-' or '_') || !char.IsAsciiLetter(name[0]))
            {
                throw new GateChainException(
                    422,
                    $"“{name}” is no name: it begins with a letter and holds letters, digits, - and _",
                    null,
                    []
                );
            }
            if (Directory.Exists(name) || File.Exists(name))
                throw new GateChainException(409, $"{name} is there already", null, []);
            Directory.CreateDirectory(name);
            var files = parsed.GetValue(AsProgram)
                ? new[] { ("kind.yaml", "kind.yaml"), ("kind.py", name + ".py") }
                : [("Kind.csproj", name + ".csproj"), ("Kind.cs", ClassOf(name) + "Kind.cs")];
            foreach (var (template, file) in files)
            {
                File.WriteAllText(
                    Path.Combine(name, file),
                    Template(template)
                        .Replace("@name@", name, StringComparison.Ordinal)
                        .Replace("@Class@", ClassOf(name), StringComparison.Ordinal)
                        .Replace("@program@", AppContext.BaseDirectory.TrimEnd('/'), StringComparison.Ordinal)
                );
            }

            Console.WriteLine(
                parsed.GetValue(AsProgram)
                    ? $"made {name}/; try it: gatechain kinds {name} --plugins ., then gatechain serve --plugins ."
                    : $"made {name}/; build it: dotnet build {name} -o plugins/{name}, "
                        + "then gatechain serve --plugins plugins"
            );
            return ExitCodes.Succeeded;
        });
        return command;
    }

    static string ClassOf(string name) =>
        string.Concat(name.Split('-', '_').Where(p => p.Length > 0).Select(p => char.ToUpperInvariant(p[0]) + p[1..]));

    static string Template(string name)
    {
        using var stream = typeof(KindCommands).Assembly.GetManifestResourceStream(name)!;
        using var reader = new StreamReader(stream);
        return reader.ReadToEnd();
    }
}
