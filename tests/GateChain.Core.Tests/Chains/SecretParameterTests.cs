using GateChain.Core.Chains.Kinds;
using GateChain.Core.Checking;

namespace GateChain.Core.Tests.Chains;

/// <summary>Where a parameter that is a secret may stand, and how it is given.</summary>
public sealed class SecretParameterTests
{
    // Work whose environment may hold secrets.
    static readonly KindCatalogue Kinds = new(
        [
            Play.Kinds.Find("work")! with
            {
                Settings = SettingShape.Record(
                    new SettingMember("give", new(SettingForm.Expression), false, null, ""),
                    new SettingMember(
                        "env",
                        new(SettingForm.Map) { Item = SettingShape.Text, TakesSecrets = true },
                        false,
                        null,
                        ""
                    )
                ),
            },
        ],
        []
    );

    // With a child that takes a secret and a text.
    static IReadOnlyList<string> Problems(string rest)
    {
        var check = new ChainCheck(Kinds);
        var (child, none) = check.Check(
            "c.chain.yaml",
            "chain: c\nparams: { s: { type: string, secret: true }, t: { type: string, default: x } }\n"
                + "steps: { a: { kind: work } }\n"
        );
        Assert.Empty(none);
        var around = new WorkspaceContext(
            new Dictionary<string, string>(),
            new HashSet<string>(),
            new Dictionary<string, Core.Chains.ChainInterface> { ["c"] = ChainInterfaces.Of(child!) },
            new HashSet<string>()
        );
        var (_, problems) = check.Check(
            "t.chain.yaml",
            "chain: t\nparams: { token: { type: string, secret: true }, word: { type: string, default: w } }\n" + rest,
            around
        );
        return [.. problems.Select(p => $"{p.Code} {p.Message}")];
    }

    [Theory]
    [InlineData("steps: { a: { kind: work } }", null)]
    [InlineData("steps: { a: { kind: work, set: { env: { T: '${params.token}' } } } }", null)]
    [InlineData("steps: { a: { kind: work, set: { env: { T: '${params.word}' } } } }", null)]
    [InlineData("steps: { a: { kind: call, chain: c, inputs: { s: params.token } } }", null)]
    [InlineData("steps: { a: { kind: call, chain: c, inputs: { s: '\"secret:x\"' } } }", null)]
    [InlineData(
        "steps: { a: { kind: work, set: { env: { T: 'Bearer ${params.token}' } } } }",
        "GC1413 “token” is a secret: here it would only be the name of one"
    )]
    [InlineData(
        "steps: { a: { kind: work, set: { give: params.token } } }",
        "GC1413 “token” is a secret: here it would only be the name of one"
    )]
    [InlineData(
        "steps: { a: { kind: work } }\noutputs: { x: 'params.token + \"x\"' }",
        "GC1413 “token” is a secret: here it would only be the name of one"
    )]
    [InlineData(
        "steps: { a: { kind: call, chain: c, inputs: { s: params.token, t: params.token } } }",
        "GC1413 “token” is a secret: here it would only be the name of one"
    )]
    [InlineData(
        "steps: { a: { kind: call, chain: c, inputs: { s: params.word } } }",
        "GC1501 “s” of “c” is a secret, and is given by its name"
    )]
    [InlineData(
        "steps: { a: { kind: call, chain: c, inputs: { s: '\"open text\"' } } }",
        "GC1501 “s” of “c” is a secret, and is given by its name"
    )]
    public void ItStandsByItselfWhereASecretMay(string rest, string? problem) =>
        Assert.Equal(problem is null ? [] : [problem], Problems(rest));

    [Theory]
    [InlineData("{ type: int, secret: true }", "“x” is a secret, and its type is string then")]
    [InlineData(
        "{ type: string, secret: true, default: abc }",
        "“x” is a secret, and is given by its name: secret:NAME"
    )]
    [InlineData("{ type: string, secret: true, default: secret:abc }", null)]
    [InlineData("{ type: string, secret: true }", null)]
    public void ItIsATextAndItsDefaultAName(string declared, string? problem)
    {
        var (_, problems) = new ChainCheck(Kinds).Check(
            "t.chain.yaml",
            $"chain: t\nparams: {{ x: {declared} }}\nsteps: {{ a: {{ kind: work }} }}\n"
        );
        Assert.Equal(problem is null ? [] : [problem], problems.Select(p => p.Message));
    }
}
