using GateChain.Client;

namespace GateChain.Service.Endpoints;

/// <summary>
/// The chains that a new one can begin with: the files in <c>Templates</c>, whose first line says what they teach.
/// </summary>
static class Templates
{
    public static IReadOnlyList<TemplateInfo> All { get; } =
    [
        .. typeof(Templates)
            .Assembly.GetManifestResourceNames()
            .Where(n => n.EndsWith(".chain.yaml", StringComparison.Ordinal))
            .Order(StringComparer.Ordinal)
            .Select(Read),
    ];

    static TemplateInfo Read(string resource)
    {
        using var reader = new StreamReader(typeof(Templates).Assembly.GetManifestResourceStream(resource)!);
        var text = reader.ReadToEnd();
        var end = text.IndexOf('\n', StringComparison.Ordinal);
        var head = text[2..end].Split(": ", 2);
        var source = text[(end + 1)..];
        return new(
            source["chain: ".Length..source.IndexOf('\n', StringComparison.Ordinal)],
            head[0],
            char.ToUpperInvariant(head[1][0]) + head[1][1..],
            source
        );
    }
}
