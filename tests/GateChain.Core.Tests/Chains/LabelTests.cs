using System.Text.Json;
using GateChain.Core.Chains;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Chains.Reading;
using GateChain.Core.Problems;
using GateChain.Core.Running;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Chains;

/// <summary>Labels say the same here and in the console: both are held to one file of cases.</summary>
public class LabelTests
{
    sealed record GateCase(string Gate, string On, string Label);

    sealed record StepCase(string Step, string? Note);

    sealed record FactCase(string Tells, string Set, string? Fact);

    sealed record DurationCase(int Ms, string Text);

    sealed record Cases(
        GateCase[] Gates,
        StepCase[] Steps,
        FactCase[] Facts,
        Dictionary<string, string> States,
        DurationCase[] Durations
    );

    static readonly Cases All = JsonSerializer.Deserialize<Cases>(
        File.ReadAllText(Path.Combine(AppContext.BaseDirectory, "cases", "labels.json")),
        JsonSerializerOptions.Web
    )!;

    [Fact]
    public void GatesHaveTheLabelsOfTheConsole()
    {
        foreach (var expected in All.Gates)
        {
            var chain = Play.Read(
                $$"""
                chain: labels
                params: { day: { type: int, default: 1 } }
                steps:
                  a: { kind: work }
                  b: { kind: work }
                  fork: { kind: decide, branches: [{ name: rich, when: "true" }, { name: poor, otherwise: true }] }
                gates:
                  - {{expected.Gate}}
                """
            );
            var gate = Assert.Single(chain.Root.Gates);
            Assert.Equal((expected.Gate, expected.On, expected.Label), (expected.Gate, gate.On.Word(), gate.Label));
        }
    }

    [Fact]
    public void StepsHaveTheCaptionsOfTheConsole()
    {
        foreach (var expected in All.Steps)
        {
            var chain = Play.Read(
                $$"""
                chain: labels
                vars: { seen: { type: int, initial: 0 }, total: { type: int, initial: 0 } }
                steps:
                  a: {{expected.Step.Replace("steps: {}", "steps: { b: { kind: work } }", StringComparison.Ordinal)}}
                """
            );
            Assert.Equal((expected.Step, expected.Note), (expected.Step, chain.Root.Steps[0].Caption));
        }
    }

    static readonly SettingShape End = SettingShape.Record(
        new SettingMember("csv", SettingShape.Text, false, null, ""),
        new SettingMember("table", SettingShape.Text, false, null, "")
    );

    static readonly SettingShape Told = SettingShape.Record(
        new SettingMember("action", SettingShape.Text, false, null, ""),
        new SettingMember("path", SettingShape.Text, false, null, ""),
        new SettingMember("shell", SettingShape.Text, false, null, ""),
        new SettingMember("run", new(SettingForm.List) { Item = SettingShape.Text }, false, null, ""),
        new SettingMember("query", new(SettingForm.TextOrFile), false, null, ""),
        new SettingMember("from", End, false, null, ""),
        new SettingMember("into", End, false, null, "")
    );

    [Fact]
    public void SettingsTellTheSameAsInTheConsole()
    {
        foreach (var expected in All.Facts)
        {
            var kind = Play.Kinds.Find("work")! with { Name = "told", Settings = Told, Tells = expected.Tells };
            var problems = new ProblemList("t", "");
            var chain = ChainReader.Read(
                $"chain: t\nsteps:\n  a: {{ kind: told, set: {expected.Set} }}\n",
                new(kind),
                problems
            );
            Assert.Equal((expected.Set, expected.Fact), (expected.Set, chain!.Root.Steps[0].Caption));
        }
    }

    [Fact]
    public void StatesHaveTheMarksOfTheConsole()
    {
        foreach (var (state, mark) in All.States)
            Assert.Equal((state, mark), (state, StateMarks.Of(state)));
        Assert.Equal("·", StateMarks.Of("no state"));
    }

    [Fact]
    public void LengthsOfTimeAreSaidAsInTheConsole()
    {
        foreach (var (ms, text) in All.Durations)
            Assert.Equal(text, TimeText.Brief(TimeSpan.FromMilliseconds(ms)));
    }
}
