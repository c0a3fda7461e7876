using System.Reflection;
using System.Reflection.Emit;

namespace GateChain.EndToEnd.House;

/// <summary>Which types of an assembly use which others of it, as the compiled code says.</summary>
static class UsedTypes
{
    const BindingFlags All =
        BindingFlags.Public
        | BindingFlags.NonPublic
        | BindingFlags.Instance
        | BindingFlags.Static
        | BindingFlags.DeclaredOnly;

    static readonly Dictionary<short, OpCode> Codes = typeof(OpCodes)
        .GetFields()
        .Select(f => (OpCode)f.GetValue(null)!)
        .ToDictionary(c => c.Value);

    /// <summary>Pairs of outermost types.</summary>
    public static IReadOnlySet<(Type By, Type Used)> Of(Assembly assembly)
    {
        var pairs = new HashSet<(Type, Type)>();
        foreach (var type in assembly.GetTypes())
        {
            var by = Outermost(type);
            foreach (var used in Mentioned(type).SelectMany(Parts))
            {
                if (used.Assembly == assembly && Outermost(used) != by)
                    pairs.Add((by, Outermost(used)));
            }
        }
        return pairs;
    }

    static Type Outermost(Type type) => type.DeclaringType is { } outer ? Outermost(outer) : type;

    // A list of lists of a type mentions three.
    static IEnumerable<Type> Parts(Type type)
    {
        if (type.IsGenericParameter)
            return [];
        if (type.HasElementType)
            return Parts(type.GetElementType()!);
        return type.IsGenericType ? type.GetGenericArguments().SelectMany(Parts).Prepend(type) : [type];
    }

    static IEnumerable<Type> Mentioned(Type type)
    {
        if (type.BaseType is not null)
            yield return type.BaseType;
        foreach (var face in type.GetInterfaces())
            yield return face;
        foreach (var attribute in type.GetCustomAttributesData())
            yield return attribute.AttributeType;
        foreach (var field in type.GetFields(All))
            yield return field.FieldType;
        foreach (var method in type.GetMethods(All).Cast<MethodBase>().Concat(type.GetConstructors(All)))
        {
            foreach (var parameter in method.GetParameters())
                yield return parameter.ParameterType;
            if (method is MethodInfo { ReturnType: var result })
                yield return result;
            if (method.GetMethodBody() is not { } body)
                continue;
            foreach (var variable in body.LocalVariables)
                yield return variable.LocalType;
            foreach (var used in InCode(method, body.GetILAsByteArray()!))
                yield return used;
        }
    }

    static IEnumerable<Type> InCode(MethodBase method, byte[] code)
    {
        var ofType = method.DeclaringType!.GetGenericArguments();
        var ofMethod = method is MethodInfo ? method.GetGenericArguments() : [];
        for (var i = 0; i < code.Length; )
        {
            var value = code[i] == 0xfe ? unchecked((short)(0xfe00 | code[i + 1])) : code[i];
            var op = Codes[value];
            i += op.Size;
            if (
                op.OperandType
                is OperandType.InlineType
                    or OperandType.InlineMethod
                    or OperandType.InlineField
                    or OperandType.InlineTok
            )
            {
                var member = method.Module.ResolveMember(BitConverter.ToInt32(code, i), ofType, ofMethod);
                if (member is Type type)
                    yield return type;
                if (member?.DeclaringType is { } owner)
                    yield return owner;
                if (member is MethodInfo { IsGenericMethod: true } generic)
                {
                    foreach (var argument in generic.GetGenericArguments())
                        yield return argument;
                }
            }
            i += op.OperandType switch
            {
                OperandType.InlineNone => 0,
                OperandType.ShortInlineBrTarget or OperandType.ShortInlineI or OperandType.ShortInlineVar => 1,
                OperandType.InlineVar => 2,
                OperandType.InlineI8 or OperandType.InlineR => 8,
                OperandType.InlineSwitch => 4 + 4 * BitConverter.ToInt32(code, i),
                _ => 4,
            };
        }
    }
}
