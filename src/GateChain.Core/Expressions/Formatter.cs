using System.Text;

namespace GateChain.Core.Expressions;

/// <summary>Writes an expression in one way: single blanks around operators and behind commas, no parentheses that change nothing. Literals stay as they were written.</summary>
public static class Formatter
{
    // How tightly a form binds; a part that binds less tightly than its place asks for gets parentheses.
    const int Conditional = 0, Or = 1, And = 2, Relation = 3, Sum = 4, Product = 5, Unary = 6, Member = 7;

    /// <summary>The text; it parses to the same tree.</summary>
    public static string Format(Expression expression)
    {
        var writer = new Writer(expression.Text);
        writer.Write(expression.Tree, Conditional);
        return writer.ToString();
    }

    static int Binding(Expr expr) => expr switch
    {
        ConditionalExpr => Conditional,
        LogicExpr logic => logic.IsAnd ? And : Or,
        CallExpr { Target: null } call => call.Function.Name switch
        {
            "_<_" or "_<=_" or "_>_" or "_>=_" or "_==_" or "_!=_" or "@in" => Relation,
            "_+_" or "_-_" => Sum,
            "_*_" or "_/_" or "_%_" => Product,
            "-_" or "!_" => Unary,
            _ => Member,
        },
        // A negative number before a dot would be read as the negative of what follows.
        LiteralExpr { Value: { Kind: Values.ValueKind.Int, AsInt: < 0 } or { Kind: Values.ValueKind.Double, AsDouble: < 0 } } => Unary,
        _ => Member,
    };

    sealed class Writer(string source)
    {
        readonly StringBuilder _text = new();

        public void Write(Expr expr, int place)
        {
            var wrapped = Binding(expr) < place;
            if (wrapped) { _text.Append('('); }
            Bare(expr);
            if (wrapped) { _text.Append(')'); }
        }

        void Bare(Expr expr)
        {
            switch (expr)
            {
                case LiteralExpr literal: _text.Append(source, literal.Span.Start, literal.Span.Length); break;
                case IdentExpr ident: _text.Append(ident.Root ? "." : "").Append(ident.Name); break;
                case SelectExpr { Test: true } test:
                    _text.Append("has(");
                    Select(test);
                    _text.Append(')');
                    break;
                case SelectExpr select: Select(select); break;
                case CallExpr call: Call(call); break;
                case LogicExpr logic:
                    Write(logic.Left, logic.IsAnd ? And : Or);
                    _text.Append(logic.IsAnd ? " && " : " || ");
                    Write(logic.Right, logic.IsAnd ? Relation : And);
                    break;
                case ConditionalExpr conditional:
                    Write(conditional.Condition, Or);
                    _text.Append(" ? ");
                    Write(conditional.Then, Or);
                    _text.Append(" : ");
                    Write(conditional.Otherwise, Conditional);
                    break;
                case ListExpr list: List('[', ']', list.Items, i => { _text.Append(i.Optional ? "?" : ""); Write(i.Item, Conditional); }); break;
                case MapExpr map:
                    List('{', '}', map.Entries, e =>
                    {
                        _text.Append(e.Optional ? "?" : "");
                        Write(e.Key, Conditional);
                        _text.Append(": ");
                        Write(e.Value, Conditional);
                    });
                    break;
                case MacroExpr macro:
                    Write(macro.Range, Member);
                    Arguments("." + NameOf(macro.Kind), [macro.Variable, macro.Second], [macro.Filter, macro.Body]);
                    break;
                case OptionalMapExpr map:
                    Write(map.Target, Member);
                    Arguments(map.Flat ? ".optFlatMap" : ".optMap", [map.Variable], [map.Body]);
                    break;
                case BindExpr bind: Arguments("cel.bind", [bind.Variable], [bind.Value, bind.Body]); break;
                default: throw new InvalidOperationException(expr.GetType().Name);
            }
        }

        static string NameOf(MacroKind kind) => kind switch
        {
            MacroKind.ExistsOne => "exists_one",
            _ => char.ToLowerInvariant(kind.ToString()[0]) + kind.ToString()[1..],
        };

        void Select(SelectExpr select)
        {
            Write(select.Operand, Member);
            _text.Append(select.Optional ? ".?" : ".").Append(source, select.FieldSpan.Start, select.FieldSpan.Length);
        }

        void Call(CallExpr call)
        {
            switch (call.Function.Name)
            {
                case "-_" or "!_":
                    _text.Append(call.Function.Name[0]);
                    // “- 1” is the operator before a number, “-1” the number.
                    if (call.Function.Name == "-_" && call.Arguments[0] is LiteralExpr)
                    {
                        _text.Append('(');
                        Bare(call.Arguments[0]);
                        _text.Append(')');
                    }
                    else { Write(call.Arguments[0], Unary); }
                    break;
                case "_[_]" or "_[?_]":
                    Write(call.Arguments[0], Member);
                    _text.Append(call.Function.Name == "_[_]" ? "[" : "[?");
                    Write(call.Arguments[1], Conditional);
                    _text.Append(']');
                    break;
                case var _ when Binding(call) is var binding and < Unary:
                    Write(call.Arguments[0], binding);
                    _text.Append(' ').Append(call.Function.Display).Append(' ');
                    Write(call.Arguments[1], binding + 1);
                    break;
                default:
                    if (call.Target is { } target)
                    {
                        Write(target, Member);
                        _text.Append('.');
                    }
                    Arguments(call.Function.Name, [], IsWrittenOut(call) ? [.. ((ListExpr)call.Arguments[0]).Items.Select(i => i.Item)] : call.Arguments);
                    break;
            }
        }

        // math.greatest(a, b, c) is read as one list; it is written as it was.
        bool IsWrittenOut(CallExpr call) => call.Function.Name is "math.greatest" or "math.least" && call.Arguments is [ListExpr list] && source[list.Span.Start] != '[';

        void Arguments(string name, IReadOnlyList<string?> variables, IReadOnlyList<Expr?> arguments)
        {
            _text.Append(name).Append('(');
            var first = true;
            foreach (var variable in variables.OfType<string>()) { Comma(); _text.Append(variable); }
            foreach (var argument in arguments.OfType<Expr>()) { Comma(); Write(argument, Conditional); }
            _text.Append(')');

            void Comma()
            {
                if (!first) { _text.Append(", "); }
                first = false;
            }
        }

        void List<T>(char open, char close, IReadOnlyList<T> items, Action<T> write)
        {
            _text.Append(open);
            for (var i = 0; i < items.Count; i++)
            {
                if (i > 0) { _text.Append(", "); }
                write(items[i]);
            }
            _text.Append(close);
        }

        public override string ToString() => _text.ToString();
    }
}
