using System.CommandLine;
using GateChain.Core.Chains.Kinds;
using GateChain.Kinds;

namespace GateChain.Cli;

/// <summary>Where kinds of one's own are found: <c>--plugins</c>, or else what <c>GATECHAIN_PLUGINS</c> says.</summary>
static class PluginFolder
{
    static KindCatalogue? _catalogue;

    public static Option<string?> Option { get; } =
        new("--plugins")
        {
            Description = "Folder of kinds of your own (also from the environment: GATECHAIN_PLUGINS)",
            Recursive = true,
        };

    /// <summary>The folder; null for none. Set before a command runs.</summary>
    public static string? Path { get; private set; } =
        Environment.GetEnvironmentVariable("GATECHAIN_PLUGINS") is { Length: > 0 } folder ? folder : null;

    /// <summary>All kinds there are, those of the folder included.</summary>
    /// <exception cref="GateChain.Kinds.Plugins.PluginException">One of them can't be loaded.</exception>
    public static KindCatalogue Catalogue => _catalogue ??= KindSet.Of(Path).Catalogue;

    public static void Take(ParseResult parsed)
    {
        if (parsed.GetValue(Option) is { } folder)
            Path = folder;
    }
}
