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
            .SelectMany(c => c.Secrets.Select(s => (Secret: s, c.Name)))
            .ToLookup(a => a.Secret, a => a.Name);
        // The names of secrets that nothing of theirs asks for are for who keeps all.
        var set = secrets.Entries.Where(e => visitor.Seen is null || asked.Contains(e.Name)).ToDictionary(e => e.Name);
        return
        [
            .. set
                .Keys.Union(asked.Select(a => a.Key))
                .Order(StringComparer.Ordinal)
                .Select(name =>
                    set.TryGetValue(name, out var entry)
                        ? new SecretInfo(
                            name,
                            true,
                            entry.Author,
                            entry.Changed,
                            entry.Readable,
                            [.. asked[name].Distinct()]
                        )
                        : new SecretInfo(name, false, null, null, false, [.. asked[name].Distinct()])
                ),
        ];
    }

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
