using System.Text;

namespace GateChain.Core.Expressions;

/// <summary>
/// Writes an expression in one way: single blanks around operators and behind commas, no parentheses that change
/// nothing. Literals stay as they were written.
/// </summary>
public static class Formatter
{
    // How tightly a form binds; a part that binds less tightly than its place asks for gets parentheses.
    const int Conditional = 0,
        Or = 1,
        And = 2,
        Relation = 3,
        Sum = 4,
        Product = 5,
        Unary = 6,
        Member = 7;

    /// <summary>The text; it parses to the same tree.</summary>
    public static string Format(Expression expression)
    {
        var writer = new Writer(expression.Text);
        writer.Write(expression.Tree, Conditional);
        return writer.ToString();
    }

    static int Binding(Expr expr) =>
        expr switch
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
            LiteralExpr
            {
                Value: { Kind: Values.ValueKind.Int, AsInt: < 0 } or { Kind: Values.ValueKind.Double, AsDouble: < 0 }
            } => Unary,
            _ => Member,
        };

    sealed class Writer(string source)
    {
        readonly StringBuilder _text = new();

        /// <summary>
        /// Writes a node; what it begins with, and that begins with, and so on, is written by a loop, since such chains
        /// are long.
        /// </summary>
        public void Write(Expr expr, int place)
        {
            var spine = new List<(Expr Expr, bool Wrapped)>();
            for (Expr? at = expr; at is not null; at = LeftOf(at))
            {
                var wrapped = Binding(at) < place;
                spine.Add((at, wrapped));
                if (wrapped)
                    _text.Append('(');
                _text.Append(Before(at));
                place = PlaceOfLeft(at);
            }
            for (var i = spine.Count - 1; i >= 0; i--)
            {
                After(spine[i].Expr);
                if (spine[i].Wrapped)
                    _text.Append(')');
            }
        }

        // An operator or an index, which stand behind or before what they work on.
        static bool HasSign(CallExpr call) =>
            call.Target is null && call.Function.Name is "-_" or "!_" or "_[_]" or "_[?_]"
            || (call.Target is null && Binding(call) < Unary);

        // Arguments of functions are not what a call begins with.
        static Expr? LeftOf(Expr expr) => expr is CallExpr { Target: null } call && !HasSign(call) ? null : expr.Left;

        // “- 1” is the operator before a number, “-1” the number.
        static bool IsMinusOfNumber(Expr expr) =>
            expr is CallExpr { Function.Name: "-_", Target: null, Arguments: [LiteralExpr] };

        static string Before(Expr expr) =>
            expr switch
            {
                SelectExpr { Test: true } => "has(",
                CallExpr { Target: null, Function.Name: "-_" or "!_" } call => call.Function.Name[0]
                    + (IsMinusOfNumber(call) ? "(" : ""),
                _ => "",
            };

        static int PlaceOfLeft(Expr expr) =>
            expr switch
            {
                LogicExpr logic => logic.IsAnd ? And : Or,
                CallExpr { Target: null, Function.Name: "-_" or "!_" } call => IsMinusOfNumber(call)
                    ? Conditional
                    : Unary,
                CallExpr { Target: null, Function.Name: not ("_[_]" or "_[?_]") } call => Binding(call),
                _ => Member,
            };

        void After(Expr expr)
        {
            switch (expr)
            {
                case LiteralExpr literal:
                    _text.Append(source, literal.Span.Start, literal.Span.Length);
                    break;
                case IdentExpr ident:
                    _text.Append(ident.Root ? "." : "").Append(ident.Name);
                    break;
                case SelectExpr select:
                    _text
                        .Append(select.Optional ? ".?" : ".")
                        .Append(source, select.FieldSpan.Start, select.FieldSpan.Length)
                        .Append(select.Test ? ")" : "");
                    break;
                case CallExpr call:
                    Call(call);
                    break;
                case LogicExpr logic:
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
                case ListExpr list:
                    List('[', ']', list.Items, i =>
                    {
                        _text.Append(i.Optional ? "?" : "");
                        Write(i.Item, Conditional);
                    });
                    break;
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
                    Arguments("." + NameOf(macro.Kind), [macro.Variable, macro.Second], [macro.Filter, macro.Body]);
                    break;
                case OptionalMapExpr map:
                    Arguments(map.Flat ? ".optFlatMap" : ".optMap", [map.Variable], [map.Body]);
                    break;
                case BindExpr bind:
                    Arguments("cel.bind", [bind.Variable], [bind.Value, bind.Body]);
                    break;
                default:
                    throw new InvalidOperationException(expr.GetType().Name);
            }
        }

        static string NameOf(MacroKind kind) =>
            kind switch
            {
                MacroKind.ExistsOne => "exists_one",
                _ => char.ToLowerInvariant(kind.ToString()[0]) + kind.ToString()[1..],
            };

        void Call(CallExpr call)
        {
            switch (call.Function.Name)
            {
                case "-_" or "!_":
                    _text.Append(IsMinusOfNumber(call) ? ")" : "");
                    break;
                case "_[_]" or "_[?_]":
                    _text.Append(call.Function.Name == "_[_]" ? "[" : "[?");
                    Write(call.Arguments[1], Conditional);
                    _text.Append(']');
                    break;
                case var _ when HasSign(call):
                    _text.Append(' ').Append(call.Function.Display).Append(' ');
                    Write(call.Arguments[1], Binding(call) + 1);
                    break;
                default:
                    _text.Append(call.Target is null ? "" : ".");
                    Arguments(
                        call.Function.Name,
                        [],
                        IsWrittenOut(call)
                            ? [.. ((ListExpr)call.Arguments[0]).Items.Select(i => i.Item)]
                            : call.Arguments
                    );
                    break;
            }
        }

        // math.greatest(a, b, c) is read as one list; it is written as it was.
        bool IsWrittenOut(CallExpr call) =>
            call.Function.Name is "math.greatest" or "math.least"
            && call.Arguments is [ListExpr list]
            && source[list.Span.Start] != '[';

        void Arguments(string name, IReadOnlyList<string?> variables, IReadOnlyList<Expr?> arguments)
        {
            _text.Append(name).Append('(');
            var first = true;
            foreach (var variable in variables.OfType<string>())
            {
                Comma();
                _text.Append(variable);
            }
            foreach (var argument in arguments.OfType<Expr>())
            {
                Comma();
                Write(argument, Conditional);
            }
            _text.Append(')');

            void Comma()
            {
                if (!first)
                    _text.Append(", ");
                first = false;
            }
        }

        void List<T>(char open, char close, IReadOnlyList<T> items, Action<T> write)
        {
            _text.Append(open);
            for (var i = 0; i < items.Count; i++)
            {
                if (i > 0)
                    _text.Append(", ");
                write(items[i]);
            }
            _text.Append(close);
        }

        public override string ToString() => _text.ToString();
    }
}
