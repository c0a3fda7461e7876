using GateChain.Core.Chains;
using GateChain.Core.Checking;
using GateChain.Core.Expressions;
using GateChain.Core.Values;

namespace GateChain.Kinds.Tests;

/// <summary>What a step lacks because of a choice it makes is told before it runs.</summary>
public sealed class CheckedSettingsTests
{
    [Theory]
    [InlineData("kind: file, set: { action: copy, path: x }", "a file step needs “to” for action: copy: ")]
    [InlineData("kind: file, set: { action: unpack, path: x }", "a file step needs “to” for action: unpack: ")]
    [InlineData("kind: file, set: { action: write, path: x }", "a file step needs “text” for action: write: ")]
    [InlineData("kind: file, set: { action: write, path: x, text: y }", null)]
    [InlineData("kind: file, set: { action: look, path: x }", null)]
    [InlineData("kind: file, set: { action: '${params.what}', path: x }", null)]
    [InlineData(
        "kind: transfer, set: { connection: c, action: put, path: x }",
        "a transfer step needs “to” for action: put: "
    )]
    [InlineData("kind: transfer, set: { connection: c, action: list, path: x }", null)]
    [InlineData(
        "kind: load, set: { from: { csv: x }, into: { connection: c, table: t, mode: upsert } }",
        "“into” needs “key” for mode: upsert: "
    )]
    [InlineData(
        "kind: load, set: { from: { csv: x }, into: { connection: c, table: t, mode: upsert, key: [id] } }",
        null
    )]
    public void AChoiceSaysWhatElseHasToBeThere(string step, string? begins)
    {
        var told = new ChainCheck(KindDescriptions.Catalogue)
            .Check("t", $"chain: t\nparams: {{ what: {{ type: string }} }}\nsteps: {{ a: {{ {step} }} }}")
            .Problems.Where(p => p.Message.Contains("” for ", StringComparison.Ordinal))
            .Select(p => p.Message)
            .ToList();
        if (begins is null)
            Assert.Empty(told);
        else
            Assert.StartsWith(begins, Assert.Single(told), StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("<p>${params.v}</p>", "<p>&lt;b&gt; &amp; &quot;</p>")]
    [InlineData("<p>a</p>", "<p>a</p>")]
    [InlineData("${params.v}", "<b> & \"")]
    [InlineData("<p>${params.v == '' ? '<i>' : '<u>'}</p>", "<p>&lt;u&gt;</p>")]
    [InlineData("$${x} ${1 + 1}", "${x} 2")]
    public void ValuesInHtmlAreEscapedAndAnExpressionAloneIsHtml(string html, string sent)
    {
        var yaml =
            $"chain: t\nparams: {{ v: {{ type: string }} }}\nsteps: {{ a: {{ kind: notify, set: "
            + $"{{ connection: c, to: [x@larkmoor.example], subject: '${{params.v}}', html: "
            + $"\"{html}\" }} }} }}";
        var step = new ChainCheck(KindDescriptions.Catalogue).Check("t", yaml).Chain!.Root.Steps[0];
        var values = step
            .Settings.Evaluate(
                new DictionaryBindings(
                    new Dictionary<string, Value> { ["params"] = Value.Map(("v", Value.String("<b> & \""))) }
                )
            )
            .AsMap;
        Assert.Equal((sent, "<b> & \""), (values.Find("html")!.Value.AsString, values.Find("subject")!.Value.AsString));
    }

    [Theory]
    [InlineData("3000000000", "expected 100 to 1,000,000, and this is 3000000000")]
    [InlineData("99", "expected 100 to 1,000,000, and this is 99")]
    [InlineData("100", null)]
    public void ANumberBeyondItsBoundsIsToldByTheCheckAndByTheStep(string batch, string? problem)
    {
        var map = ValueJson.TryParse($$"""{"from": {"csv": "x"}, "into": {"csv": "y"}, "batch": {{batch}}}""")!.Value;
        Assert.Equal(
            problem is null ? null : $"setting “batch”: {problem}",
            Settings.SettingsBinder.Bind<GateChain.Kinds.Load.LoadSettings>(map).Problem
        );
        var (chain, problems) = new ChainCheck(KindDescriptions.Catalogue).Check(
            "t",
            "chain: t\nsteps: { a: { kind: load, set: { from: { csv: x }, into: { csv: y }, "
                + $"batch: {batch} }} }} }}"
        );
        Assert.Equal(
            problem is null ? [] : [$"“batch”: {problem}"],
            problems.Where(p => p.IsError).Select(p => p.Message)
        );
        // A release from before there was a bound can still be read.
        Assert.NotNull(chain);
    }

    [Fact]
    public void WhatASettingCanNotHoldIsToldByTheCheck()
    {
        var problems = new ChainCheck(KindDescriptions.Catalogue)
            .Check(
                "t",
                "chain: t\nsteps: { a: { kind: http, set: { connection: c, path: x, pages: { first: 3000000000 } } } }"
            )
            .Problems;
        Assert.Equal(
            "“first”: expected -2,147,483,648 to 2,147,483,647, and this is 3000000000",
            Assert.Single(problems, p => p.IsError).Message
        );
    }

    [Theory]
    [InlineData("Authorization: Bearer abc", true)]
    [InlineData("X-Api-Key: abc", true)]
    [InlineData("Ocp-Apim-Subscription-Key: abc", true)]
    [InlineData("Cookie: session=1", true)]
    [InlineData("Authorization: 'secret:lab'", false)]
    [InlineData("Authorization: 'Bearer ${params.v}'", false)]
    [InlineData("Idempotency-Key: abc", false)]
    [InlineData("Accept: text/csv", false)]
    public void ACredentialAmongHeadersIsWarnedOfAndNotShown(string header, bool told)
    {
        var (chain, problems) = new ChainCheck(KindDescriptions.Catalogue).Check(
            "t",
            "chain: t\nparams: { v: { type: string } }\nsteps:\n  a:\n    kind: http\n"
                + $"    set: {{ connection: lab, path: x, headers: {{ {header} }} }}"
        );
        Assert.Equal(told ? ["GC1405"] : [], problems.Select(p => p.Code));
        var step = chain!.Root.Steps[0];
        var name = header.Split(':')[0];
        var given = Value.Map(("headers", Value.Map((name, Value.String("abc")))), ("path", Value.String("x")));
        var shown = ValueJson.ToText(SecretSettings.Hide(step.Kind.Settings, given));
        Assert.Equal(
            !name.Contains("Idem", StringComparison.Ordinal) && name != "Accept",
            !shown.Contains("abc", StringComparison.Ordinal)
        );
        Assert.Contains("\"x\"", shown);
    }

    [Fact]
    public void WhichSettingNamesAConnectionIsSaidByItsRecord()
    {
        var step = new ChainCheck(KindDescriptions.Catalogue)
            .Check(
                "t",
                "chain: t\nsteps: { a: { kind: load, set: { from: { connection: one, query: q }, into: "
                    + "{ connection: two, table: connection } } } }"
            )
            .Chain!.Root.Steps[0];
        Assert.Equal(["one", "two"], ConnectionNames.In(step).Select(c => c.Name));
    }
}
