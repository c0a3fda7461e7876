using System.Text;
using GateChain.Core.Values;

namespace GateChain.Core.Expressions;

/// <summary>
/// A string setting: literal text with <c>${ … }</c> parts. A template that is one such part and nothing else keeps
/// the type of its value. <c>$${</c> is a literal <c>${</c>. Immutable.
/// </summary>
public sealed class Template
{
    readonly IReadOnlyList<Part> _parts;

    Template(string text, IReadOnlyList<Part> parts) => (Text, _parts) = (text, parts);

    /// <summary>Literal text, or an expression that starts at an offset of the template's text.</summary>
    sealed record Part(string? Literal, Expression? Expression, int Start);

    public string Text { get; }

    public bool IsLiteral => _parts.All(p => p.Expression is null);

    /// <summary>The literal text, when there is no expression in it.</summary>
    public string Literal => string.Concat(_parts.Select(p => p.Literal));

    /// <summary>The expression, when the template is nothing but one.</summary>
    public Expression? Single => _parts is [{ Expression: { } only }] ? only : null;

    /// <summary>The expressions in it, each with the offset of its text.</summary>
    public IEnumerable<(Expression Expression, int Start)> Expressions =>
        _parts.Where(p => p.Expression is not null).Select(p => (p.Expression!, p.Start));

    /// <summary>Reads a template; never throws. Spans of problems are offsets in the template's text.</summary>
    public static (Template Template, IReadOnlyList<ExpressionProblem> Problems) Parse(string text)
    {
        var parts = new List<Part>();
        var problems = new List<ExpressionProblem>();
        var literal = new StringBuilder();
        var at = 0;
        var nodes = 0;
        while (at < text.Length)
        {
            if (string.CompareOrdinal(text, at, "$${", 0, 3) == 0)
            {
                literal.Append("${");
                at += 3;
            }
            else if (string.CompareOrdinal(text, at, "${", 0, 2) == 0)
            {
                var close = CloseOf(text, at + 2);
                if (close < 0)
                {
                    problems.Add(new($"this “${{” is not closed with “}}”", new(at, text.Length)));
                    break;
                }
                if (literal.Length > 0)
                {
                    parts.Add(new(literal.ToString(), null, 0));
                    literal.Clear();
                }
                var (expression, problem) = Expression.Parse(text[(at + 2)..close]);
                if (problem is not null)
                    problems.Add(problem with { Span = problem.Span.Shift(at + 2) });
                if (expression is not null)
                {
                    parts.Add(new(null, expression, at + 2));
                    if ((nodes += Walk.All(expression.Tree).Count()) > Parser.MaxNodes)
                    {
                        problems.Add(
                            new(
                                $"the expressions of this text have more than {Parser.MaxNodes:N0} parts",
                                new(at, close + 1)
                            )
                        );
                        break;
                    }
                }
                at = close + 1;
            }
            else
            {
                literal.Append(text[at++]);
            }
        }
        if (literal.Length > 0 || (parts.Count == 0 && problems.Count == 0))
            parts.Add(new(literal.ToString(), null, 0));
        return (new(text, parts), problems);
    }

    // The brace that closes the expression: braces inside texts and maps are passed over.
    static int CloseOf(string text, int from)
    {
        var lexer = new Lexer(text, from);
        var depth = 0;
        while (true)
        {
            var token = lexer.Next();
            if (token.Kind == TokenKind.End)
                return -1;
            if (token.Is("{"))
                depth++;
            else if (token.Is("}") && depth-- == 0)
                return token.Span.Start;
        }
    }

    /// <summary>The value: of any kind for a single expression, else a string; or an error.</summary>
    /// <param name="names">What its expressions see.</param>
    /// <param name="code">Codes what stands between literal text; null for as it is.</param>
    public Value Evaluate(IBindings names, Func<string, string>? code = null)
    {
        if (Single is { } single)
            return single.Evaluate(names);
        var text = new StringBuilder();
        foreach (var part in _parts)
        {
            if (part.Expression is null)
            {
                text.Append(part.Literal);
                continue;
            }
            var value = part.Expression.Evaluate(names);
            if (value.IsError)
                return Value.Error(value.AsError with { Message = $"{value.AsError.Message} (in “{Text}”)" });
            var given = ValueText.ToPlainString(value.Kind == ValueKind.Optional ? value.Inner : value);
            text.Append(code is null ? given : code(given));
        }
        return Value.String(text.ToString());
    }
}
