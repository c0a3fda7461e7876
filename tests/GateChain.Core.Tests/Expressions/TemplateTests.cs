using GateChain.Core.Expressions;
using GateChain.Core.Values;

namespace GateChain.Core.Tests.Expressions;

public class TemplateTests
{
    static readonly DictionaryBindings Names = new(
        new Dictionary<string, Value>
        {
            ["n"] = Value.Int(7),
            ["s"] = Value.String("milk"),
            ["m"] = Value.Map(("a", Value.Int(1))),
        }
    );

    [Theory]
    [InlineData("plain", "\"plain\"")]
    [InlineData("", "\"\"")]
    [InlineData("${n}", "7")]
    [InlineData("n=${n}, ${s}!", "\"n=7, milk!\"")]
    [InlineData("$${n}", "\"${n}\"")]
    [InlineData("${ {'}': n}['}'] }", "7")]
    [InlineData("${m}", "{\"a\": 1}")]
    [InlineData("a ${'}'} b", "\"a } b\"")]
    [InlineData("5 $ and }", "\"5 $ and }\"")]
    public void Gives(string text, string expected)
    {
        var (template, problems) = Template.Parse(text);
        Assert.Empty(problems);
        Assert.Equal(expected, template.Evaluate(Names).ToString());
    }

    [Theory]
    [InlineData("a ${n", 2)]
    [InlineData("a ${n +} b", 7)]
    public void PlacesItsProblems(string text, int at) =>
        Assert.Equal(at, Assert.Single(Template.Parse(text).Problems).Span.Start);
}
