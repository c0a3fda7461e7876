using GateChain.Core.Values;

namespace GateChain.Core.Expressions;

/// <summary>Recursive descent over the whole CEL grammar, macros expanded to nodes of their own.</summary>
/// <remarks>Source: CEL language definition, sections "Syntax" and "Macros".</remarks>
sealed class Parser
{
    /// <summary>
    /// The most characters, nodes, and levels of nesting; a chain of operators, selections or calls is one level.
    /// </summary>
    internal const int MaxLength = 100_000,
        MaxNodes = 10_000,
        MaxDepth = 200;

    static readonly HashSet<string> Reserved =
    [
        "as",
        "break",
        "const",
        "continue",
        "else",
        "for",
        "function",
        "if",
        "import",
        "in",
        "let",
        "loop",
        "package",
        "namespace",
        "return",
        "var",
        "void",
        "while",
    ];

    readonly Lexer _lexer;
    Token _token;
    int _lastEnd;
    int _depth;
    ExpressionProblem? _problem;

    Parser(string text)
    {
        _lexer = new(text);
        _token = _lexer.Next();
    }

    /// <summary>
    /// Gives the tree, or null and the problem. The limit is 100,000 characters, 10,000 nodes and 200 levels.
    /// </summary>
    public static (Expr? Tree, ExpressionProblem? Problem) Parse(string text)
    {
        if (text.Length > MaxLength)
            return (null, new($"the expression is longer than {MaxLength:N0} characters", new(0, 0)));

        var parser = new Parser(text);
        var tree = parser.Expression();
        if (parser._problem is null && parser._token.Kind != TokenKind.End)
            parser.Unexpected("an operator or the end of the expression");

        if (parser._problem is null && Walk.All(tree).Skip(MaxNodes).FirstOrDefault() is { } beyond)
            parser.Fail($"the expression has more than {MaxNodes:N0} parts", beyond.Span);
        return parser._problem is null ? (tree, null) : (null, parser._problem);
    }

    // What was read from there on, with the parentheses that its first and last part stand in.
    Span Since(int begin) => new(begin, _lastEnd);

    Expr Expression()
    {
        if (++_depth > MaxDepth)
            Fail($"the expression is nested more than {MaxDepth} levels deep", _token.Span);

        var begin = _token.Span.Start;
        var condition = Or();
        if (_token.Is("?"))
        {
            Advance();
            var then = Or();
            Expect(":", "“:” and what holds otherwise");
            var otherwise = Expression();
            condition = new ConditionalExpr(Since(begin), condition, then, otherwise);
        }
        _depth--;
        return condition;
    }

    Expr Or()
    {
        var begin = _token.Span.Start;
        var left = And();
        while (Take("||"))
        {
            var right = And();
            left = new LogicExpr(Since(begin), false, left, right);
        }
        return left;
    }

    Expr And()
    {
        var begin = _token.Span.Start;
        var left = Binary(0);
        while (Take("&&"))
        {
            var right = Binary(0);
            left = new LogicExpr(Since(begin), true, left, right);
        }
        return left;
    }

    static readonly string[][] Levels =
    [
        ["<", "<=", ">", ">=", "==", "!=", "in"],
        ["+", "-"],
        ["*", "/", "%"],
    ];

    Expr Binary(int level)
    {
        if (level == Levels.Length)
            return Unary();

        var begin = _token.Span.Start;
        var left = Binary(level + 1);
        while (
            _problem is null
            && (_token.Kind == TokenKind.Symbol || _token is { Kind: TokenKind.Ident, Text: "in" })
            && Levels[level].Contains(_token.Text)
        )
        {
            var name = _token.Text == "in" ? "@in" : $"_{_token.Text}_";
            var sign = _token.Span;
            Advance();
            var right = Binary(level + 1);
            left = Call(Since(begin), name, sign, left, right);
        }
        return left;
    }

    Expr Unary()
    {
        var start = _token.Span;
        if (!_token.Is("!") && !_token.Is("-"))
            return Member();

        if (++_depth > MaxDepth)
        {
            Fail($"the expression is nested more than {MaxDepth} levels deep", _token.Span);
            return Broken();
        }
        var minus = _token.Is("-");
        Advance();
        Expr result;
        if (minus && _token is { Kind: TokenKind.Literal, Value.Kind: ValueKind.Int or ValueKind.Double } number)
        {
            Advance();
            var negative =
                number.Value.Kind == ValueKind.Int
                    ? Value.Int(unchecked(-number.Value.AsInt))
                    : Value.Double(-number.Value.AsDouble);
            result = Suffixes(new LiteralExpr(start.To(number.Span), negative));
        }
        else
        {
            var operand = Unary();
            result = Call(Since(start.Start), minus ? "-_" : "!_", start, operand);
        }
        _depth--;
        return result;
    }

    Expr Member() => Suffixes(Primary());

    Expr Suffixes(Expr expr)
    {
        while (_problem is null)
        {
            if (_token.Is(".") || _token.Is(".?"))
            {
                var optional = _token.Is(".?");
                Advance();
                if (_token.Kind is not (TokenKind.Ident or TokenKind.QuotedIdent))
                {
                    Unexpected("a name after the dot");
                    return expr;
                }
                var name = _token;
                Advance();
                if (!optional && name.Kind == TokenKind.Ident && _token.Is("("))
                {
                    expr = MemberCall(expr, name);
                }
                else
                {
                    var span = expr.Span.To(name.Span);
                    expr = TypeByQualifiedName(expr, name, span)
                        ?? new SelectExpr(span, expr, name.Text, name.Span, optional: optional);
                }
            }
            else if (_token.Is("[") || _token.Is("[?"))
            {
                var optional = _token.Is("[?");
                Advance();
                optional |= Take("?");
                var function = optional ? "_[?_]" : "_[_]";
                var index = Expression();
                Expect("]", "“]”");
                expr = Call(new(expr.Span.Start, _lastEnd), function, index.Span, expr, index);
            }
            else if (_token.Is("{") && expr is IdentExpr or SelectExpr)
            {
                Fail($"messages can't be built in a chain: there are no message types", _token.Span);
            }
            else
            {
                break;
            }
        }
        return expr;
    }

    static Expr? TypeByQualifiedName(Expr operand, Token name, Span span) =>
        operand is SelectExpr { Field: "protobuf", Operand: IdentExpr { Name: "google" } }
        && name.Text is "Timestamp" or "Duration"
            ? new LiteralExpr(span, Value.Type("google.protobuf." + name.Text))
            : null;

    Expr Primary()
    {
        var token = _token;
        switch (token.Kind)
        {
            case TokenKind.Literal:
                if (token.Text == "min")
                    Fail($"this number is too big for a 64 bit int", token.Span);

                Advance();
                return new LiteralExpr(token.Span, token.Value);
            case TokenKind.Ident when Reserved.Contains(token.Text):
                Fail($"“{token.Text}” is a reserved word", token.Span);
                return Broken();
            case TokenKind.Ident:
                Advance();
                return _token.Is("(") ? GlobalCall(token) : new IdentExpr(token.Span, token.Text);
            case TokenKind.Symbol when token.Text == ".":
                Advance();
                if (_token.Kind != TokenKind.Ident)
                {
                    Unexpected("a name after the dot");
                    return Broken();
                }
                var root = _token;
                return Primary() switch
                {
                    IdentExpr ident => new IdentExpr(token.Span.To(root.Span), ident.Name, root: true),
                    var other => other,
                };
            case TokenKind.Symbol when token.Text == "(":
                Advance();
                var inner = Expression();
                Expect(")", "“)”");
                return inner;
            case TokenKind.Symbol when token.Text is "[" or "[?":
                return ListLiteral();
            case TokenKind.Symbol when token.Text == "{":
                return MapLiteral();
            default:
                Unexpected("a value, a name or “(”");
                return Broken();
        }
    }

    ListExpr ListLiteral()
    {
        var start = _token.Span;
        var items = new List<(Expr, bool)>();
        var optionalFirst = _token.Is("[?");
        Advance();
        while (_problem is null && !_token.Is("]"))
        {
            var optional = (items.Count == 0 && optionalFirst) || Take("?");
            items.Add((Expression(), optional));
            if (!Take(","))
                break;
        }
        Expect("]", "“,” or “]”");
        return new(new(start.Start, _lastEnd), items);
    }

    MapExpr MapLiteral()
    {
        var start = _token.Span;
        Advance();
        var entries = new List<(Expr, Expr, bool)>();
        while (_problem is null && !_token.Is("}"))
        {
            var optional = Take("?");
            var key = Expression();
            Expect(":", "“:” and the value of the entry");
            entries.Add((key, Expression(), optional));
            if (!Take(","))
                break;
        }
        Expect("}", "“,” or “}”");
        return new(new(start.Start, _lastEnd), entries);
    }

    Expr GlobalCall(Token name)
    {
        var arguments = Arguments();
        var span = new Span(name.Span.Start, _lastEnd);
        if (name.Text == "has")
        {
            if (arguments is [SelectExpr { Test: false } select])
                return new SelectExpr(span, select.Operand, select.Field, select.FieldSpan, test: true);

            Fail($"has() takes one selection, for example has(steps.load.rows_read)", span);
            return Broken();
        }
        return new CallExpr(
            span,
            Functions.Find(name.Text) ?? FunctionGroup.Unknown(name.Text),
            null,
            arguments,
            name.Span
        );
    }

    Expr MemberCall(Expr target, Token name)
    {
        var arguments = Arguments();
        var span = new Span(target.Span.Start, _lastEnd);
        if (Macro(target, name, arguments, span) is { } macro)
            return macro;

        if (target is IdentExpr space && Functions.Find($"{space.Name}.{name.Text}") is { } qualified)
        {
            // The greatest and the least take any number of arguments: three and more are a list.
            if (qualified.Name is "math.greatest" or "math.least" && arguments.Count > 2)
            {
                arguments =
                [
                    new ListExpr(arguments[0].Span.To(arguments[^1].Span), [.. arguments.Select(a => (a, false))]),
                ];
            }
            return new CallExpr(span, qualified, null, arguments, target.Span.To(name.Span));
        }
        return new CallExpr(
            span,
            Functions.Find(name.Text) ?? FunctionGroup.Unknown(name.Text),
            target,
            arguments,
            name.Span
        );
    }

    Expr? Macro(Expr target, Token name, IReadOnlyList<Expr> arguments, Span span)
    {
        if (target is IdentExpr { Name: "cel" } && name.Text == "bind" && arguments.Count == 3)
        {
            return Variable(name, arguments[0]) is { } bound
                ? new BindExpr(span, bound, arguments[1], arguments[2])
                : Broken();
        }
        if (arguments.Count == 2 && name.Text is "optMap" or "optFlatMap")
        {
            return Variable(name, arguments[0]) is { } held
                ? new OptionalMapExpr(span, name.Text == "optFlatMap", target, held, arguments[1])
                : Broken();
        }
        // Of how many arguments the first are variables; what is between them and the last one is the filter.
        (MacroKind Kind, int Variables)? macro = (name.Text, arguments.Count) switch
        {
            ("all", 2) => (MacroKind.All, 1),
            ("exists", 2) => (MacroKind.Exists, 1),
            ("exists_one" or "existsOne", 2) => (MacroKind.ExistsOne, 1),
            ("map", 2 or 3) => (MacroKind.Map, 1),
            ("filter", 2) => (MacroKind.Filter, 1),
            ("sortBy", 2) => (MacroKind.SortBy, 1),
            ("all", 3) => (MacroKind.All, 2),
            ("exists", 3) => (MacroKind.Exists, 2),
            ("exists_one" or "existsOne", 3) => (MacroKind.ExistsOne, 2),
            ("transformList", 3 or 4) => (MacroKind.TransformList, 2),
            ("transformMap", 3 or 4) => (MacroKind.TransformMap, 2),
            ("transformMapEntry", 3 or 4) => (MacroKind.TransformMapEntry, 2),
            _ => null,
        };
        if (macro is not var (kind, variables))
            return null;
        var (first, second) = (Variable(name, arguments[0]), variables == 2 ? Variable(name, arguments[1]) : null);
        if (first is null || (variables == 2 && second is null))
            return Broken();
        if (first == second)
        {
            Fail($"both variables of {name.Text}() are “{first}”", arguments[1].Span);
            return Broken();
        }
        return new MacroExpr(
            span,
            kind,
            target,
            first,
            second,
            arguments.Count == variables + 2 ? arguments[variables] : null,
            arguments[^1]
        );
    }

    string? Variable(Token macro, Expr argument)
    {
        if (argument is IdentExpr { Root: false } variable)
            return variable.Name;
        Fail($"{macro.Text}() takes the name of a variable here", argument.Span);
        return null;
    }

    List<Expr> Arguments()
    {
        Advance();
        var arguments = new List<Expr>();
        while (_problem is null && !_token.Is(")"))
        {
            arguments.Add(Expression());
            if (!Take(","))
                break;
        }
        Expect(")", "“,” or “)”");
        return arguments;
    }

    static CallExpr Call(Span span, string name, Span sign, params Expr[] arguments) =>
        new(span, Functions.Find(name)!, null, arguments, sign);

    LiteralExpr Broken() => new(_token.Span, Value.Null);

    void Advance()
    {
        _lastEnd = _token.Span.End;
        _token = _lexer.Next();
        if (_token.Kind == TokenKind.Bad)
            Fail($"{_token.Text}", _token.Span);
    }

    bool Take(string symbol)
    {
        if (_problem is not null || !_token.Is(symbol))
            return false;

        Advance();
        return true;
    }

    void Expect(string symbol, string what)
    {
        if (!Take(symbol))
            Unexpected(what);
    }

    void Unexpected(string expected) =>
        Fail(
            _token.Kind switch
            {
                TokenKind.Bad => (Sentence)$"{_token.Text}",
                TokenKind.End => $"the expression ends too early: expected {expected}",
                _ => $"expected {expected}",
            },
            _token.Span
        );

    void Fail(Sentence message, Span span, string? fix = null)
    {
        _problem ??= new(message, span, fix);
        _token = new(TokenKind.End, _token.Span, "");
    }
}
