using GateChain.Core.Designing;
using GateChain.Core.Expressions;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Expressions;

/// <summary>Lists of records, as a file step gives them: the parts of their items are known.</summary>
public class RecordTests
{
    static readonly CelType File = CelType.Record(("path", CelType.String), ("changed", CelType.Timestamp));

    static readonly CelType Names = CelType.Object(
        new Dictionary<string, CelType>
        {
            ["files"] = CelType.List(File),
            ["others"] = CelType.List(CelType.Record(("name", CelType.String))),
            ["any"] = CelType.List(CelType.Map(CelType.String, CelType.Dyn)),
        }
    );

    [Theory]
    [InlineData("files[0].path", "string", null)]
    [InlineData("files[0].changed", "timestamp", null)]
    [InlineData("files[0]['path']", "any", null)]
    [InlineData("files[?0].path", "optional<string>", null)]
    [InlineData("files[0].pth", null, "there is no “pth” in it")]
    [InlineData("files.map(f, f.path)", "list<string>", null)]
    [InlineData("files.map(f, f.pth)", null, "there is no “pth” in f")]
    [InlineData("files.exists(f, f.changed > 1)", null, "“>” does not work between timestamp and int")]
    [InlineData("files.filter(f, f.path != '')[0].path", "string", null)]
    [InlineData("files[0].map(k, k)", "list<string>", null)]
    [InlineData("size(files[0])", "int", null)]
    [InlineData("files == any", "bool", null)]
    [InlineData("(files == [] ? any : files)[0].whatever", "any", null)]
    [InlineData("(files == [] ? others : files)[0].name", "any", null)]
    [InlineData("(files == [] ? others : files)[0].path", "any", null)]
    [InlineData("[files[0], others[0]][0].name", "any", null)]
    [InlineData("has(files[0].path) && 'path' in files[0]", "bool", null)]
    public void ItsPartsHaveTypesAndOthersAreToldAsMistakes(string text, string? expected, string? mistake)
    {
        var (type, mistakes) = Expression.Parse(text).Expression!.Check(Names);
        if (mistake is null)
        {
            Assert.Empty(mistakes);
            Assert.Equal(expected, type.ToString());
            return;
        }
        Assert.Contains(mistakes, m => m.Message.Contains(mistake, StringComparison.Ordinal));
    }

    [Theory]
    [InlineData("files[0].", "changed path")]
    [InlineData("files.filter(f, f.", "changed path")]
    public void ItsPartsAreOfferedBeforeWhatEveryMapHas(string text, string expected)
    {
        var (_, items) = new Completer(Names).Complete(text, text.Length);
        Assert.Equal(expected, string.Join(' ', items.Where(i => i.Kind == "name").Select(i => i.Label).Order()));
        Assert.Contains(items, i => i.Label == "exists");
    }

    [Fact]
    public void WhatIsGivenAsJsonGetsTheTypesOfTheParts()
    {
        var given = ValueJson.TryParse("""[{"path":"a.csv","changed":"2026-11-22T05:00:00Z","more":1}]""")!.Value;
        var (value, problem) = Conversion.To(CelType.List(File), given);
        Assert.Null(problem);
        var first = value!.Value.AsList[0].AsMap;
        Assert.Equal(ValueKind.Timestamp, first.Find("changed")!.Value.Kind);
        Assert.Equal(ValueKind.Int, first.Find("more")!.Value.Kind);
        Assert.Equal(
            "in “changed”: expected a timestamp such as 2026-11-22 or 2026-11-22T05:00:00Z, and this is “soon”",
            Conversion.To(File, ValueJson.TryParse("""{"changed":"soon"}""")!.Value).Problem
        );
    }

    [Fact]
    public void AListOfRecordsTellsItsParts()
    {
        Assert.Equal("list<map<string, any>> with path, changed", CelType.List(File).WithParts);
        Assert.Equal("map<string, any>", File.ToString());
        Assert.Equal("int", CelType.Int.WithParts);
    }
}
