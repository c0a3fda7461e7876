using System.Reflection;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Values;

namespace GateChain.Kinds.Settings;

/// <summary>Makes the shape of a settings record from its properties.</summary>
public static class SettingsShape
{
    /// <summary>The shape of a record whose properties bear <see cref="SettingAttribute"/>.</summary>
    public static SettingShape Of<T>()
        where T : class, new() => OfRecord(typeof(T));

    internal static IEnumerable<(PropertyInfo Property, SettingAttribute Setting, string Name)> Members(Type type) =>
        from property in type.GetProperties()
        let setting = property.GetCustomAttribute<SettingAttribute>()
        where setting is not null
        select (property, setting, CamelCase(property.Name));

    internal static string CamelCase(string name) => char.ToLowerInvariant(name[0]) + name[1..];

    static SettingShape OfRecord(Type type)
    {
        var absent = Activator.CreateInstance(type);
        return SettingShape.Record([
            .. Members(type)
                .Select(m => new SettingMember(
                    m.Name,
                    OfProperty(m.Property.PropertyType, m.Setting),
                    m.Setting.Required,
                    m.Setting.Required ? null : Default(m.Property.GetValue(absent)),
                    m.Setting.Doc
                )
                {
                    RequiredFor = Demand(m.Setting.RequiredFor),
                }),
        ]) with
        {
            OneOf = type.GetCustomAttribute<OneOfAttribute>()?.Names ?? [],
        };
    }

    static (string, IReadOnlyList<string>)? Demand(string? text) =>
        text?.Split(": ") is [var member, var choices] ? (member, choices.Split(' ')) : null;

    static SettingShape OfProperty(Type type, SettingAttribute setting)
    {
        type = Nullable.GetUnderlyingType(type) ?? type;
        if (setting.Expression)
        {
            return type == typeof(Value)
                ? new(SettingForm.Expression)
                : new(SettingForm.Map) { Item = new(SettingForm.Expression) };
        }
        if (setting.RowExpression)
            return new(SettingForm.RowExpression);
        if (setting.Attachment && type == typeof(string))
            return new(SettingForm.Attachment);
        if (type.IsEnum)
            return new(SettingForm.Choice) { Choices = [.. Enum.GetNames(type).Select(CamelCase)] };
        if (type == typeof(string))
        {
            var types = setting.Connection.Split(' ', StringSplitOptions.RemoveEmptyEntries);
            return SettingShape.Text with
            {
                Refers = types.Length > 0 ? SettingReference.Connection : setting.Refers,
                ConnectionTypes = types,
                IsSecret = setting.Secret,
            };
        }
        if (type == typeof(bool))
            return new(SettingForm.Bool);
        if (type == typeof(int) || type == typeof(long))
            return OfInt(type, setting);
        if (type == typeof(double))
            return new(SettingForm.Double);
        if (type == typeof(TimeSpan))
            return new(SettingForm.Duration);
        if (type == typeof(DateTimeOffset))
            return new(SettingForm.Timestamp);
        if (type == typeof(TextOrFile))
            return new(SettingForm.TextOrFile) { IsHtml = setting.Html };
        if (type == typeof(Value))
            return new(SettingForm.Any);
        if (type.IsGenericType && type.GetGenericTypeDefinition() == typeof(IReadOnlyList<>))
            return new(SettingForm.List) { Item = OfProperty(type.GetGenericArguments()[0], setting) };
        if (type.IsGenericType && type.GetGenericTypeDefinition() == typeof(IReadOnlyDictionary<,>))
        {
            return new(SettingForm.Map)
            {
                Item = OfProperty(type.GetGenericArguments()[1], setting) with { IsSecret = false },
                IsSecret = setting.Secret,
                TakesSecrets = setting.TakesSecrets,
            };
        }
        return OfRecord(type);
    }

    // What the property can't hold is told by the check too, not only when the step runs.
    internal static SettingShape OfInt(Type type, SettingAttribute setting)
    {
        var isInt = type == typeof(int);
        return new(SettingForm.Int)
        {
            Least =
                setting.Min != long.MinValue ? setting.Min
                : isInt ? int.MinValue
                : null,
            Most =
                setting.Max != long.MaxValue ? setting.Max
                : isInt ? int.MaxValue
                : null,
        };
    }

    static Value? Default(object? value) =>
        value switch
        {
            string s => Value.String(s),
            bool b => Value.Bool(b),
            int i => Value.Int(i),
            long n => Value.Int(n),
            double d => Value.Double(d),
            TimeSpan t => Value.String(TimeText.Setting(t)),
            Enum e => Value.String(CamelCase(e.ToString())),
            IReadOnlyList<int> list => Value.List([.. list.Select(i => Value.Int(i))]),
            _ => null,
        };
}
