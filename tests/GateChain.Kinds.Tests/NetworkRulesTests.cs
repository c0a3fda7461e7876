using System.Net;
using GateChain.Kinds.Connections;

namespace GateChain.Kinds.Tests;

/// <summary>Where steps may go, once an admin's rules hold.</summary>
public class NetworkRulesTests
{
    static readonly NetworkRules Careful = new(
        host => host != "kept.larkmoor.example",
        host => host == "named.larkmoor.example",
        8480
    );

    [Theory]
    [InlineData("169.254.169.254", 80, true)]
    [InlineData("169.254.1.1", 443, true)]
    [InlineData("fe80::1", 80, true)]
    [InlineData("::ffff:169.254.169.254", 80, true)]
    [InlineData("0.0.0.0", 80, true)]
    [InlineData("127.0.0.1", 8480, true)]
    [InlineData("::1", 8480, true)]
    [InlineData("::ffff:127.0.0.1", 8480, true)]
    [InlineData("127.0.0.1", 8481, false)]
    [InlineData("203.0.113.7", 8480, false)]
    [InlineData("10.0.0.7", 80, false)]
    public void TheServiceItselfAndTheMachinesOwnNetworkAreKeptFromSteps(string address, int port, bool isKept)
    {
        var at = IPAddress.Parse(address);
        Assert.Equal(isKept, Careful.Refusal("x.larkmoor.example", at, port) is not null);
        // Named by itself, or without rules, it is nobody's business.
        Assert.Null(Careful.Refusal("named.larkmoor.example", at, port));
        Assert.Null(NetworkRules.Open.Refusal("x.larkmoor.example", at, port));
    }

    [Fact]
    public void AHostIsAllowedByItsName()
    {
        Assert.NotNull(Careful.Refusal("kept.larkmoor.example"));
        Assert.Null(Careful.Refusal("other.larkmoor.example"));
    }
}
