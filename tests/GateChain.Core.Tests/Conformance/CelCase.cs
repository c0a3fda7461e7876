using System.Text.Json;
using System.Text.RegularExpressions;
using GateChain.Core.Expressions;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Conformance;

/// <summary>One case of the open CEL conformance suite, as <c>tests/conformance/export.mjs</c> writes it.</summary>
sealed partial class CelCase(JsonElement json)
{
    readonly JsonElement _original = json.GetProperty("original");

    public string Kind { get; } = json.GetProperty("kind").GetString()!;
    public string Group { get; } = json.GetProperty("group").GetString()!;
    public string Name =>
        $"{json.GetProperty("suite").GetString()}/"
        + $"{(_original.TryGetProperty("name", out var name) ? name.GetString() : Text)}";
    public string Text => _original.GetProperty("expr").GetString()!;

    /// <summary>Whether the reference parser took it; only of the parsing, checking and comprehension cases.</summary>
    public bool Parses { get; } = json.GetProperty("parses").GetBoolean();

    /// <summary>The tree as the reference parser writes it; only of the parsing cases.</summary>
    public string? Ast { get; } = json.TryGetProperty("ast", out var ast) ? ast.GetString() : null;

    /// <summary>The type that the reference checker found, in its own words.</summary>
    public string? Type { get; } = json.TryGetProperty("type", out var type) ? type.GetString() : null;

    public bool IsChecked => !Flag("disableCheck");
    public bool IsEvaluated => !Flag("checkOnly");
    public bool FailsToEvaluate => _original.TryGetProperty("evalError", out _);

    bool Flag(string name) => _original.TryGetProperty(name, out var flag) && flag.GetBoolean();

    /// <summary>
    /// What the suite has that a chain has not: protobuf messages and enums. A case is left out when its expression
    /// names one, its bindings or result hold one, or a whole group is about them.
    /// </summary>
    public bool HoldsMessage =>
        Group is "proto2" or "proto2_ext" or "proto3" or "enums" or "wrappers" or "block_ext"
        || MessageText().IsMatch(Literals().Replace(Text, "''"))
        || (_original.TryGetProperty("bindings", out var bindings) && Mentions(bindings))
        || (_original.TryGetProperty("value", out var value) && Mentions(value))
        || (_original.TryGetProperty("typeEnv", out var names) && MessageType().IsMatch(names.GetRawText()));

    [GeneratedRegex(
        @"\b\w*(TestAllTypes|NestedMessage|NestedEnum|GlobalEnum)\b|\b(?!in\b)[A-Za-z_]\w*\s*\{|"
            + @"google\.(protobuf\.(?!Timestamp|Duration)|expr)|\bproto\.\w+Ext\("
    )]
    private static partial Regex MessageText();

    [GeneratedRegex("'[^']*'|\"[^\"]*\"")]
    private static partial Regex Literals();

    [GeneratedRegex("\"messageType\":\\s*\"(?!google\\.protobuf\\.(Timestamp|Duration)\")")]
    private static partial Regex MessageType();

    static bool Mentions(JsonElement value) =>
        value.GetRawText() is var text
        && (
            text.Contains("\"enumValue\"")
            || Regex.IsMatch(text, "\"@type\":\\s*\"type.googleapis.com/(?!google.protobuf.(Timestamp|Duration)\")")
        );

    /// <summary>The expected value; true where the suite names none.</summary>
    public Value Expected =>
        _original.TryGetProperty("value", out var value) ? CelValue.Read(value)
        : _original.TryGetProperty("typedResult", out var typed) && typed.TryGetProperty("result", out var result)
            ? CelValue.Read(result)
        : Value.True;

    public string? DeducedType =>
        _original.TryGetProperty("typedResult", out var typed) && typed.TryGetProperty("deducedType", out var type)
            ? CelValue.ReadType(type).ToString()
            : null;

    public IBindings Names
    {
        get
        {
            var values = new Dictionary<string, Value>();
            if (_original.TryGetProperty("bindings", out var bindings))
            {
                foreach (var binding in bindings.EnumerateObject().OrderBy(b => InContainer(b.Name)))
                    values[Outside(binding.Name)] = CelValue.Read(binding.Value.GetProperty("value"));
            }
            return new DictionaryBindings(values);
        }
    }

    // In a container, “x” means “container.x” first.
    bool InContainer(string name) =>
        _original.TryGetProperty("container", out var container)
        && name.StartsWith(container.GetString() + ".", StringComparison.Ordinal);

    string Outside(string name) =>
        InContainer(name) ? name[(_original.GetProperty("container").GetString()!.Length + 1)..] : name;

    public (CelType Scope, Dictionary<string, FunctionGroup> Functions) Environment
    {
        get
        {
            var names = new Dictionary<string, CelType>();
            var functions = new Dictionary<string, FunctionGroup>();
            if (_original.TryGetProperty("typeEnv", out var declared))
            {
                foreach (
                    var item in declared.EnumerateArray().OrderBy(d => InContainer(d.GetProperty("name").GetString()!))
                )
                {
                    var name = item.GetProperty("name").GetString()!;
                    if (item.TryGetProperty("ident", out var ident))
                        names[Outside(name)] = CelValue.ReadType(ident.GetProperty("type"));
                    else
                        functions[name] = CelValue.ReadFunction(name, item.GetProperty("function"));
                }
            }
            return (CelType.Object(names), functions);
        }
    }

    /// <summary>
    /// Whether it is about names or functions that the reference's own test code declares, which the suite does not
    /// carry.
    /// </summary>
    public bool LacksEnvironment =>
        Kind != "conformance"
        && Expression.Parse(Text).Expression is { } parsed
        && (ReferenceFunctions().IsMatch(Text) || Free(parsed.Tree, []));

    [GeneratedRegex(@"\b(fg_s|fi_s_s|myfun|set|encode)\(")]
    private static partial Regex ReferenceFunctions();

    static bool Free(Expr expr, IReadOnlyList<string> bound) =>
        expr switch
        {
            IdentExpr ident => !bound.Contains(ident.Name) && CelType.Parse(ident.Name) is null,
            MacroExpr macro => Free(macro.Range, bound)
                || Walk.Children(macro).Skip(1).Any(e => Free(e, [.. bound, macro.Variable, macro.Second ?? ""])),
            OptionalMapExpr map => Free(map.Target, bound) || Free(map.Body, [.. bound, map.Variable]),
            BindExpr bind => Free(bind.Value, bound) || Free(bind.Body, [.. bound, bind.Variable]),
            _ => Walk.Children(expr).Any(e => Free(e, bound)),
        };

    public override string ToString() => $"{Group} {Name}: {Text}";
}
