using GateChain.Client;
using GateChain.Core.Chains;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Values;
using GateChain.Engine.Connections;
using GateChain.Engine.Secrets;
using GateChain.Engine.Workspaces;
using GateChain.Kinds;
using GateChain.Service.Access;
using ConnectionInfo = GateChain.Client.ConnectionInfo;

namespace GateChain.Service.Views;

/// <summary>Connections, secrets and profiles as the API shows them.</summary>
static class ConnectionViews
{
    public static async Task<IReadOnlyList<ConnectionInfo>> ConnectionsAsync(
        ConnectionService connections,
        Visitor visitor
    )
    {
        var uses = (await connections.UsesAsync()).ToLookup(
            u => (u.Connection, u.Area),
            u => new UseInfo(u.Chain, u.Step)
        );
        return
        [
            .. connections
                .All.Where(c => visitor.Sees(c.Area))
                .Select(c => new ConnectionInfo(
                    c.Name,
                    c.Type,
                    c.Settings.ToDictionary(s => s.Key, s => ValueText.ToPlainString(Shown(c.Type, s.Key, s.Value))),
                    [
                        .. uses[(c.Name, c.Area)]
                            .OrderBy(u => u.Chain, StringComparer.Ordinal)
                            .ThenBy(u => u.Step, StringComparer.Ordinal),
                    ],
                    c.Area.Path
                )),
        ];
    }

    // What nobody should read is hidden even where the file has it plainly.
    static Value Shown(string type, string key, Value value) =>
        SecretSettings.Hide(
            AllConnections
                .Types.FirstOrDefault(t => t.Name == type)
                ?.Settings.Members.FirstOrDefault(m => m.Name == key)
                ?.Shape
                ?? SettingShape.Text,
            value
        );

    public static IReadOnlyList<SecretInfo> Secrets(SecretVault secrets, ConnectionService connections, Visitor visitor)
    {
        var asked = connections
            .All.Where(c => visitor.Sees(c.Area))
            .SelectMany(c => c.Secrets.Select(s => (Secret: s, Connection: c)))
            .ToLookup(a => a.Secret, a => a.Connection);
        // Those of folders around theirs are of use to them when something of theirs asks for them.
        var set = secrets
            .Entries.Where(e => visitor.Sees(e.Area) || asked[e.Name].Any(c => e.Area.Holds(c.Area)))
            .ToDictionary(e => e.Name);
        return
        [
            .. set
                .Keys.Union(asked.Select(a => a.Key))
                .Order(StringComparer.Ordinal)
                .Select(name =>
                {
                    IReadOnlyList<string> users = [.. asked[name].Select(c => c.Name).Distinct()];
                    return set.TryGetValue(name, out var e)
                        ? new SecretInfo(name, true, e.Author, e.Changed, e.Readable, users, e.Area.Path)
                        : OfFile(name, asked[name].All(c => secrets.IsSet(name, c.Area)), users);
                }),
        ];
    }

    static SecretInfo OfFile(string name, bool isThere, IReadOnlyList<string> users) =>
        new(name, isThere, null, null, isThere, users);

    /// <summary>Those of the workspace, and of folders those whose values are others there.</summary>
    public static IReadOnlyList<ProfileInfo> Profiles(WorkspaceService workspace, Visitor visitor) =>
        [
            .. workspace
                .Areas.Where(visitor.Sees)
                .SelectMany(area =>
                    workspace
                        .In(area)
                        .Profiles.All.Where(p =>
                            area.Parent is not { } outer || !IsSame(p.Key, p.Value, workspace.In(outer))
                        )
                        .Select(p => new ProfileInfo(
                            p.Key,
                            p.Value.AsMap.Entries.ToDictionary(
                                e => ValueText.ToPlainString(e.Key),
                                e => ValueText.ToPlainString(e.Value)
                            ),
                            area.Path
                        ))
                ),
        ];

    static bool IsSame(string profile, Value values, AreaFiles outer) =>
        outer.Profiles.All.TryGetValue(profile, out var same) && same.Equals(values);
}
