using GateChain.Core.Chains.Kinds;
using GateChain.Core.Values;
using GateChain.Kinds.Plugins;

namespace GateChain.Kinds.Tests.Plugins;

/// <summary>Kinds that are programs; those in assemblies are built and run by the end-to-end tests.</summary>
public sealed class PluginTests : IDisposable
{
    readonly Bench _bench = new();

    public void Dispose() => _bench.Dispose();

    const string Good = """
        kind: weigh
        doc: Weighs milk.
        purpose: data
        run: [sh, weigh.sh]
        settings:
          type: object
          required: [litres]
          properties:
            litres:  { type: array, items: { type: number }, description: Litres of every tanker. }
            unit:    { enum: [kg, t], default: kg, description: What it is told in. }
            since:   { type: string, format: duration, description: How old it may be. }
        outputs: { kilograms: double, note: string }
        sample: { kilograms: 1030, note: "" }
        """;

    KindSet Set(
        string yaml,
        string script = "cat > got; echo weighed >&2; echo '{\"kilograms\": 5, \"note\": \"fine\"}'"
    )
    {
        _bench.Write("plugins/weigh/kind.yaml", yaml);
        _bench.Write("plugins/weigh/weigh.sh", script);
        return KindSet.Of(_bench["plugins"]);
    }

    [Fact]
    public async Task AProgramWithASchemaIsAKind()
    {
        var set = Set(Good);
        var kind = set.Catalogue.Find("weigh")!;
        Assert.Equal(
            (KindPurpose.Data, "litres unit since", true),
            (
                kind.Purpose,
                string.Join(' ', kind.Settings.Members.Select(m => m.Name)),
                kind.Settings.Members[0].Required
            )
        );
        Assert.Equal(SettingForm.Duration, kind.Settings.Members[2].Shape.Form);
        var result = await _bench.RunAsync(
            set.Runners.Single(r => r.Description.Name == "weigh"),
            """{"litres": [1, 2.5]}"""
        );
        Assert.Null(result.Error);
        Assert.Equal(
            (Value.Double(5), "fine"),
            (result.Outputs.AsMap.Find("kilograms")!.Value, result.Outputs.AsMap.Find("note")!.Value.AsString)
        );
        Assert.Equal("""{"litres":[1,2.5]}""", File.ReadAllText(_bench["got"]).Trim());
        Assert.Contains("err weighed", _bench.Log);
    }

    [Theory]
    [InlineData("echo no scale >&2; exit 3", "exit-code", "the program ended with exit code 3: no scale")]
    [InlineData("echo moo", "output", "the program's output is not a JSON object")]
    [InlineData("echo '{\"note\": \"x\"}'", "output", "the program's output has no “kilograms”")]
    [InlineData("echo '{\"kilograms\": \"many\", \"note\": \"x\"}'", "output", "the program's output “kilograms”: ")]
    [InlineData(
        "echo '{\"kilograms\": 5, \"note\": \"x\", \"grams\": 1}'",
        "output",
        "the program's output has “grams”, which its kind does not declare"
    )]
    public async Task AProgramThatGivesSomethingElseFails(string script, string code, string words)
    {
        var result = await _bench.RunAsync(
            Set(Good, script).Runners.Single(r => r.Description.Name == "weigh"),
            """{"litres": []}"""
        );
        Assert.Equal(code, result.Error!.Code);
        Assert.StartsWith(words, result.Error.Message, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("kind: weigh", "kind: sql", "there is a kind “sql” already; give it another name")]
    [InlineData("kind: weigh", "knid: weigh", "it has no key “knid” (did you mean “kind”?)")]
    [InlineData("doc: Weighs milk.", "", "“doc” is missing")]
    [InlineData("purpose: data", "purpose: milk", "“purpose” is one of work, data, ways, run")]
    [InlineData("run: [sh, weigh.sh]", "run: sh", "“run” is a list: the program and its arguments")]
    [InlineData(
        "required: [litres]",
        "required: [liters]",
        "settings: “liters” is required, and not among the properties"
    )]
    [InlineData("type: number", "type: float", "settings.litres[]: there is no type “float”")]
    [InlineData(
        "description: Litres",
        "pattern: x, description: Litres",
        "settings.litres: “pattern” is not understood"
    )]
    [InlineData("kilograms: double", "kilograms: kilo", "output “kilograms”: there is no type “kilo”")]
    [InlineData("kilograms: 1030,", "", "“sample” needs “kilograms”")]
    [InlineData("kilograms: 1030", "kilograms: much", "the sample of “kilograms”: ")]
    [InlineData("kind: weigh", "kind: [", "this is not YAML")]
    public void WhatIsWrongWithAPlugInIsTold(string part, string other, string words) =>
        Assert.Contains(
            words,
            Assert.Throws<PluginException>(() => Set(Good.Replace(part, other, StringComparison.Ordinal))).Message,
            StringComparison.Ordinal
        );

    [Fact]
    public void AFolderThatHoldsNoPlugInAndAnAssemblyThatIsNoneAreTold()
    {
        Assert.EndsWith(
            "the plug-in folder is not there",
            Assert.Throws<PluginException>(() => KindSet.Of(_bench["gone"])).Message
        );
        _bench.Write("plugins/empty/readme.txt", "");
        Assert.EndsWith(
            "a plug-in's folder holds kind.yaml or empty.dll, and this one has neither",
            Assert.Throws<PluginException>(() => KindSet.Of(_bench["plugins"])).Message
        );
        _bench.Write("plugins/empty/empty.dll", "no assembly");
        Assert.Contains(
            "it can't be loaded: ",
            Assert.Throws<PluginException>(() => KindSet.Of(_bench["plugins"])).Message
        );
        File.Copy(
            typeof(Npgsql.NpgsqlConnection).Assembly.Location,
            _bench["plugins/empty/empty.dll"],
            overwrite: true
        );
        Assert.EndsWith(
            "it holds no public class that is an IStepKind or an IProbe",
            Assert.Throws<PluginException>(() => KindSet.Of(_bench["plugins"])).Message
        );
    }
}
