using GateChain.Core.Values;

namespace GateChain.Core.Datasets;

/// <summary>The texts of a step's settings, as they are declared or as they were computed. Immutable.</summary>
/// <param name="settings">The settings.</param>
/// <param name="attachment">The text of an attachment of the chain; null when it is not there.</param>
public sealed class SettingTexts(Value settings, Func<string, string?> attachment)
{
    /// <summary>The text at a place, as <c>from.csv</c>; null when there is none, or an empty one.</summary>
    public string? this[string path] => Text(At(path));

    /// <summary>What stands at a place, for places within it.</summary>
    public SettingTexts Under(string path) => new(At(path), attachment);

    /// <summary>The texts of a list; one text is a list of one.</summary>
    public IEnumerable<string> List(string path) =>
        At(path) is { Kind: ValueKind.List } list ? list.AsList.Select(Text).OfType<string>()
        : this[path] is { } one ? [one]
        : [];

    /// <summary>What stands under each name of a map.</summary>
    public IEnumerable<SettingTexts> Each(string path) =>
        At(path) is { Kind: ValueKind.Map } map
            ? map.AsMap.Entries.Select(e => new SettingTexts(e.Value, attachment))
            : [];

    /// <summary>A text that stands there, or in the attachment that is named there.</summary>
    public string? Content(string path) => this[$"{path}.file"] is { } file ? attachment(file) : this[path];

    static string? Text(Value value) =>
        value.Kind == ValueKind.String && value.AsString is { Length: > 0 } text ? text : null;

    Value At(string path)
    {
        var value = settings;
        foreach (var name in path.Split('.'))
        {
            if (value.Kind != ValueKind.Map || value.AsMap.Find(name) is not { } next)
                return Value.Null;
            value = next;
        }
        return value;
    }
}
