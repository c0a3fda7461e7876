using System.Collections;
using GateChain.Core.Expressions;
using GateChain.Core.Values;

namespace GateChain.Kinds.Settings;

/// <summary>Fills a settings record from the computed settings.</summary>
static class SettingsBinder
{
    /// <summary>The record, or null and a sentence that names the setting that does not fit.</summary>
    public static (T? Settings, string? Problem) Bind<T>(Value map)
        where T : class, new()
    {
        try
        {
            return ((T)Record(typeof(T), map, ""), null);
        }
        catch (WrongSettingException e)
        {
            return (null, e.Message);
        }
    }

    sealed class WrongSettingException(string message) : Exception(message);

    static object Record(Type type, Value map, string path)
    {
        if (map.Kind != ValueKind.Map)
            throw new WrongSettingException($"setting “{path}”: expected a mapping, and this is {map}");
        var record = Activator.CreateInstance(type)!;
        foreach (var (property, setting, name) in SettingsShape.Members(type))
        {
            var full = path.Length == 0 ? name : $"{path}.{name}";
            if (map.AsMap.Find(name) is { IsNull: false } value)
                property.SetValue(record, Convert(property.PropertyType, value, full, setting));
            else if (setting.Required)
                throw new WrongSettingException($"setting “{full}” is empty, and it is required");
        }
        return record;
    }

    static object Convert(Type type, Value value, string path, SettingAttribute setting)
    {
        type = Nullable.GetUnderlyingType(type) ?? type;
        if (value.Kind == ValueKind.Optional)
            value = value.Inner;
        if (type == typeof(Value))
            return value;
        if (type == typeof(string))
            return ValueText.ToPlainString(value);
        if (type == typeof(bool))
            return To(CelType.Bool, value, path).AsBool;
        if (type == typeof(int) || type == typeof(long))
        {
            var number = To(CelType.Int, value, path).AsInt;
            if (SettingsShape.OfInt(type, setting).RangeProblem(number) is { } problem)
                throw new WrongSettingException($"setting “{path}”: {problem}");
            return type == typeof(int) ? (object)(int)number : number;
        }
        if (type == typeof(double))
            return To(CelType.Double, value, path).AsDouble;
        if (type == typeof(TimeSpan))
            return To(CelType.Duration, value, path).AsTimeSpan;
        if (type == typeof(DateTimeOffset))
            return To(CelType.Timestamp, value, path).AsDateTimeOffset;
        if (type == typeof(TextOrFile))
        {
            return value.Kind == ValueKind.Map
                ? new TextOrFile(null, ValueText.ToPlainString(value.AsMap.Find("file") ?? Value.Null))
                : new TextOrFile(ValueText.ToPlainString(value), null);
        }
        if (type.IsEnum)
        {
            return Enum.TryParse(type, ValueText.ToPlainString(value), ignoreCase: true, out var choice)
                ? choice
                : throw new WrongSettingException(
                    $"setting “{path}”: {value} is not one of "
                        + $"{string.Join(", ", Enum.GetNames(type).Select(SettingsShape.CamelCase))}"
                );
        }
        if (type.IsGenericType && type.GetGenericTypeDefinition() == typeof(IReadOnlyList<>))
            return List(type.GetGenericArguments()[0], value, path, setting);
        if (type.IsGenericType && type.GetGenericTypeDefinition() == typeof(IReadOnlyDictionary<,>))
            return Map(type.GetGenericArguments()[1], value, path, setting);
        return Record(type, value, path);
    }

    static Value To(CelType type, Value value, string path)
    {
        var (converted, problem) = Conversion.To(type, value);
        return converted ?? throw new WrongSettingException($"setting “{path}”: {problem}");
    }

    static IList List(Type item, Value value, string path, SettingAttribute setting)
    {
        var list = (IList)Activator.CreateInstance(typeof(List<>).MakeGenericType(item))!;
        foreach (var element in value.Kind == ValueKind.List ? value.AsList : [value])
            list.Add(Convert(item, element, $"{path}[{list.Count}]", setting));
        return list;
    }

    static IDictionary Map(Type item, Value value, string path, SettingAttribute setting)
    {
        if (value.Kind != ValueKind.Map)
            throw new WrongSettingException($"setting “{path}”: expected a mapping, and this is {value}");
        var map = (IDictionary)
            Activator.CreateInstance(typeof(OrderedDictionary<,>).MakeGenericType(typeof(string), item))!;
        foreach (var (key, element) in value.AsMap.Entries)
        {
            var name = ValueText.ToPlainString(key);
            map[name] = Convert(item, element, $"{path}.{name}", setting);
        }
        return map;
    }
}
