using GateChain.Core.Chains;
using GateChain.Core.Checking;
using GateChain.Core.Problems;
using GateChain.Kinds.Databases;

namespace GateChain.Kinds.Tests.Connections;

/// <summary>A setting that names a connection takes those types that its kind can work with, and no others.</summary>
public class ConnectionTypeTests
{
    [Fact]
    public void SettingsForDatabasesTakeEveryDatabase() =>
        Assert.Equal(Dialects.All.Select(d => d.Type), DatabaseTypes.All.Split(' '));

    public static TheoryData<string, string> Settings =>
        new()
        {
            { "kind: sql, set: { connection: NAME, query: 'SELECT 1' }", DatabaseTypes.All },
            { "kind: load, set: { from: { connection: NAME, table: t }, into: { csv: t.csv } }", DatabaseTypes.All },
            { "kind: load, set: { from: { csv: t.csv }, into: { connection: NAME, table: t } }", DatabaseTypes.All },
            { "kind: transfer, set: { connection: NAME, action: get, from: in/*, to: in }", "sftp ftp s3 azure" },
            { "kind: http, set: { connection: NAME, path: day }", "http" },
            { "kind: remote, set: { connection: NAME, path: jobs, json: {} }", "http" },
            { "kind: notify, set: { connection: NAME, text: hello }", "smtp http" },
            { "kind: file, set: { action: look, from: in/*, connection: NAME }", "folder" },
        };

    [Theory]
    [MemberData(nameof(Settings))]
    public void AConnectionOfAnotherTypeIsAProblem(string step, string types)
    {
        var all = AllConnections.Types.ToDictionary(t => t.Name, t => t.Name);
        var workspace = new WorkspaceContext(
            all,
            new HashSet<string>(),
            new Dictionary<string, ChainInterface>(),
            new HashSet<string>()
        );
        var refused = all.Keys.Where(name =>
            new ChainCheck(KindDescriptions.Catalogue)
                .Check(
                    "t",
                    $"chain: t\nsteps:\n  s: {{ {step.Replace("NAME", name, StringComparison.Ordinal)} }}",
                    workspace
                )
                .Problems.Any(p => p.Kind == ProblemKinds.WrongConnection)
        );
        Assert.Equal(all.Keys.Except(types.Split(' ')).Order(), refused.Order());
    }
}
