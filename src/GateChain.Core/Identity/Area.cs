using System.Text.Json;
using System.Text.Json.Serialization;

namespace GateChain.Core.Identity;

/// <summary>
/// A folder of the workspace. What stands in files beside the chains holds for its folder and for what lies below.
/// Immutable; the default is the workspace itself.
/// </summary>
[JsonConverter(typeof(AreaJsonConverter))]
public readonly record struct Area
{
    readonly string? _path;

    /// <param name="path">Its folders with <c>/</c> between them, for example <c>sales/daily</c>; empty for the
    /// workspace itself.</param>
    public Area(string path) => _path = path.Length == 0 ? null : path;

    /// <summary>Its folders with <c>/</c> between them; empty for the workspace itself.</summary>
    public string Path => _path ?? "";

    /// <summary>The workspace itself: everything.</summary>
    public static Area Root => default;

    /// <summary>
    /// Whether a text names a folder of the workspace as it is written: no detours, nothing left out.
    /// </summary>
    public static bool IsPath(string text) =>
        text.Length <= 500
        && (
            text.Length == 0
            || text.Split('/').All(p => p is not ("" or "." or "..") && !p.Any(c => char.IsControl(c) || c == '\\'))
        );

    /// <summary>The folder that a file lies in.</summary>
    /// <param name="file">Its path in the workspace.</param>
    public static Area OfFile(string file) => new(file[..Math.Max(0, file.LastIndexOf('/'))]);

    /// <summary>The folder around it; null for the workspace itself.</summary>
    public Area? Parent => _path is null ? null : OfFile(_path);

    /// <summary>
    /// Itself first, then the folders around it, the workspace last: the order in which files are looked for.
    /// </summary>
    public IEnumerable<Area> Upward
    {
        get
        {
            for (Area? at = this; at is { } area; at = area.Parent)
                yield return area;
        }
    }

    /// <summary>Whether another one is this one or lies below it.</summary>
    public bool Holds(Area other) =>
        _path is null
        || other == this
        || (
            other.Path.Length > _path.Length
            && other.Path[_path.Length] == '/'
            && other.Path.StartsWith(_path, StringComparison.Ordinal)
        );

    /// <summary>The path of a file in it.</summary>
    /// <param name="name">Relative to it.</param>
    public string File(string name) => _path is null ? name : $"{_path}/{name}";

    public override string ToString() => Path;
}

/// <summary>An area is its path.</summary>
public sealed class AreaJsonConverter : JsonConverter<Area>
{
    public override Area Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options) =>
        new(reader.GetString() ?? "");

    public override void Write(Utf8JsonWriter writer, Area value, JsonSerializerOptions options) =>
        writer.WriteStringValue(value.Path);
}
