using GateChain.Core.Values;

namespace GateChain.Core.Running;

/// <summary>What people call the item of an iteration.</summary>
public static class LoopItems
{
    static readonly string[] Telling = ["name", "id", "key", "title"];

    /// <summary>A text is itself, a map goes by its name where it has one, everything else by its beginning.</summary>
    /// <param name="item">The item.</param>
    /// <param name="most">The most characters.</param>
    public static string Name(Value item, int most = 60)
    {
        var name =
            item.Kind == ValueKind.String ? item.AsString
            : item.Kind == ValueKind.Map
            && Telling.Select(item.AsMap.Find).FirstOrDefault(v => v is { Kind: ValueKind.String }) is { } telling
                ? telling.AsString
            : ValueText.Show(item, most);
        return Shorten.Text(name, most);
    }
}
