using CsCheck;
using GateChain.Core.Access;
using GateChain.Core.Identity;

namespace GateChain.Core.Tests.Access;

/// <summary>Roles, folders, and what two have in common.</summary>
public class RightsTests
{
    static readonly string[] Folders = ["", "sales", "sales/daily", "sales-old", "finance", "sales/daily/west"];

    static Rights Of(params string[] grants) => new(grants.Select(g => Grant.Parse(g).Grant!.Value));

    static readonly Gen<Grant> AnyGrant = Gen.Select(
        Gen.Int[0, Enum.GetValues<Role>().Length - 1],
        Gen.Int[0, Folders.Length - 1],
        (role, folder) => new Grant((Role)role, new((Role)role == Role.Admin ? "" : Folders[folder]))
    );

    static readonly Gen<Rights> Any = AnyGrant.Array[0, 4].Select(g => new Rights(g));

    static IEnumerable<(Permission, Area)> All =>
        from permission in Enum.GetValues<Permission>()
        from folder in Folders
        select (permission, new Area(folder));

    [Fact]
    public void ARoleHoldsInItsFolderAndBelow()
    {
        var bea = Of("operator:sales/daily", "viewer:finance");
        Assert.True(bea.Allow(Permission.Operate, new("sales/daily/west")));
        Assert.False(bea.Allow(Permission.Operate, new("sales")));
        Assert.False(bea.Allow(Permission.Operate, new("finance")));
        Assert.False(bea.Allow(Permission.See, Area.Root));
        Assert.True(bea.AllowSomewhere(Permission.Operate));
        Assert.False(bea.AllowEverywhere(Permission.See));
        Assert.Equal(["sales/daily", "finance"], bea.Areas(Permission.See).Select(a => a.Path));
        // What lies in another one is not told twice.
        Assert.Equal([""], Of("viewer", "operator:sales").Areas(Permission.See).Select(a => a.Path));
    }

    [Fact]
    public void WhatTwoHaveInCommonIsWhatBothAllow() =>
        Gen.Select(Any, Any)
            .Sample(
                (mine, theirs) =>
                {
                    var both = mine.Within(theirs);
                    foreach (var (permission, area) in All)
                    {
                        Assert.True(
                            !both.Allow(permission, area)
                                || (mine.Allow(permission, area) && theirs.Allow(permission, area)),
                            $"{permission} in “{area}”"
                        );
                    }
                }
            );

    [Fact]
    public void OneWithinItselfAndWithinAllStaysWhatItIs() =>
        Any.Sample(rights =>
        {
            foreach (var (permission, area) in All)
            {
                Assert.Equal(rights.Allow(permission, area), rights.Within(rights).Allow(permission, area));
                Assert.Equal(rights.Allow(permission, area), rights.Within(Rights.All).Allow(permission, area));
            }
        });

    [Theory]
    [InlineData("operator", "operator")]
    [InlineData("operator:sales", "operator:sales")]
    [InlineData("operator:/sales/daily/", "operator:sales/daily")]
    [InlineData("admin", "admin")]
    [InlineData("admin:sales", null)]
    [InlineData("Operator", null)]
    [InlineData("root", null)]
    [InlineData("operator:sales/../finance", null)]
    [InlineData("operator:sales//daily", null)]
    [InlineData("operator:a:b", null)]
    [InlineData("", null)]
    public void ARoleIsWrittenWithItsFolder(string text, string? expected)
    {
        var (grant, problem) = Grant.Parse(text);
        Assert.Equal(expected, grant?.ToString());
        Assert.Equal(expected is null, problem is not null);
    }

    [Fact]
    public void TheNearestRulesHoldAndWithoutAnyNothingRuns()
    {
        var all = new Dictionary<Area, AreaRules>
        {
            [new("sales")] = new(new("sales"), true, ["ls"], null, ["*.larkmoor.example"]),
            [new("sales/daily")] = new(new("sales/daily"), false, null, [], null),
        };
        string? Why(string folder, string kind = "command", bool isPlugin = false, string? program = "ls") =>
            AreaRules.Of(all, new(folder)).Refusal(kind, isPlugin, program, []);
        Assert.Null(Why("sales"));
        Assert.Null(Why("sales/weekly"));
        Assert.Contains("only", Why("sales", program: "sh"));
        Assert.Contains("shell", Why("sales", program: null));
        Assert.Contains("gatechain allow sales/daily/west --commands", Why("sales/daily/west"));
        Assert.Contains("gatechain allow finance --commands", Why("finance"));
        Assert.Null(Why("sales", kind: "ours", isPlugin: true));
        Assert.Contains("--plugin ours", Why("finance", kind: "ours", isPlugin: true));
        Assert.Null(Why("finance", kind: "sql"));
        Assert.Contains("LD_PRELOAD", AreaRules.Of(all, new("sales")).Refusal("command", false, "ls", ["LD_PRELOAD"]));
        var hosts = AreaRules.Of(all, new("sales"));
        Assert.True(hosts.AllowsHost("lab.larkmoor.example"));
        Assert.True(hosts.AllowsHost("LAB.Larkmoor.Example"));
        Assert.False(hosts.AllowsHost("larkmoor.example"));
        Assert.False(hosts.AllowsHost("evil-larkmoor.example"));
        Assert.False(hosts.AllowsHost("lab.larkmoor.example.evil"));
    }
}
