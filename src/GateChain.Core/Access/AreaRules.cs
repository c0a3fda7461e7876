using GateChain.Core.Identity;

namespace GateChain.Core.Access;

/// <summary>
/// What steps of an area may use. Set by an admin, and kept in the store: never in the workspace, where a designer
/// could change it. Immutable.
/// </summary>
/// <param name="Area">Where they hold, and below, until a nearer one says otherwise.</param>
/// <param name="AllowCommands">Whether <c>command</c> steps run programs.</param>
/// <param name="Programs">The programs that they may run, by name or path; null for all.</param>
/// <param name="Plugins">The kinds of one's own that may be used; null for all, empty for none.</param>
/// <param name="Hosts">The hosts that steps may go to by name, <c>*.</c> for all below one; null for all that the
/// service itself may go to.</param>
public sealed record AreaRules(
    Area Area,
    bool AllowCommands,
    IReadOnlyList<string>? Programs,
    IReadOnlyList<string>? Plugins,
    IReadOnlyList<string>? Hosts
)
{
    /// <summary>Of a service without accounts: who may use it has the machine anyway.</summary>
    public static AreaRules Open { get; } = new(Area.Root, true, null, null, null);

    /// <summary>Where nothing else is said, once there are accounts: no programs, no kinds of one's own.</summary>
    public static AreaRules Careful { get; } = new(Area.Root, false, null, [], null);

    /// <summary>The rules of an area: those of the nearest folder going up that has some, as its own.</summary>
    /// <param name="all">Rules by area.</param>
    /// <param name="area">The area.</param>
    public static AreaRules Of(IReadOnlyDictionary<Area, AreaRules> all, Area area) =>
        (area.Upward.Select(a => all.GetValueOrDefault(a)).FirstOrDefault(r => r is not null) ?? Careful) with
        {
            Area = area,
        };

    /// <summary>Why a step of a kind may not begin; null when it may.</summary>
    /// <param name="kind">The kind's name.</param>
    /// <param name="isPlugin">Whether it is one of one's own.</param>
    /// <param name="program">The program that a command step runs; null for a shell's line or another kind.</param>
    /// <param name="variables">The variables that it sets for the program.</param>
    public string? Refusal(string kind, bool isPlugin, string? program, IEnumerable<string> variables)
    {
        if (isPlugin && Plugins is not null && !Plugins.Contains(kind))
        {
            return $"steps of {Place} may not use the kind “{kind}”: an admin allows it "
                + $"(gatechain allow {Folder} --plugin {kind})";
        }
        if (kind != "command")
            return null;
        if (!AllowCommands)
            return $"steps of {Place} may not run programs: an admin allows it (gatechain allow {Folder} --commands)";
        if (Programs is null)
            return null;
        // With those another program comes under an allowed name.
        if (variables.FirstOrDefault(IsSearch) is { } search)
            return $"steps of {Place} may run {List(Programs)} only, and may not set “{search}” for it";
        return program is not null && Programs.Contains(program)
            ? null
            : $"steps of {Place} may run {List(Programs)} only, and this is "
                + (program is null ? "a shell's line or a script" : $"“{program}”");
    }

    static bool IsSearch(string variable) => variable == "PATH" || variable.StartsWith("LD_", StringComparison.Ordinal);

    string Place => Area == Area.Root ? "the workspace" : $"“{Area.Path}”";

    string Folder => Area == Area.Root ? "/" : Area.Path;

    static string List(IReadOnlyList<string> names) =>
        names.Count == 0 ? "no program" : string.Join(", ", names.Select(n => $"“{n}”"));

    /// <summary>Whether a step may go to a host.</summary>
    /// <param name="host">A name or an address, as the step has it.</param>
    public bool AllowsHost(string host) =>
        Hosts is null
        || Hosts.Any(h =>
            h.StartsWith("*.", StringComparison.Ordinal)
                ? host.EndsWith(h[1..], StringComparison.OrdinalIgnoreCase)
                : host.Equals(h, StringComparison.OrdinalIgnoreCase)
        );
}
