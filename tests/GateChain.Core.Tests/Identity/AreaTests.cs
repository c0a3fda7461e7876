using System.Text.Json;
using GateChain.Core.Identity;

namespace GateChain.Core.Tests.Identity;

public class AreaTests
{
    [Theory]
    [InlineData("t.chain.yaml", "", "")]
    [InlineData("sales/t.chain.yaml", "sales", "sales > ")]
    [InlineData("sales/daily/t.chain.yaml", "sales/daily", "sales/daily > sales > ")]
    public void FilesAreLookedForFromTheInsideOut(string file, string area, string upward)
    {
        Assert.Equal(new Area(area), Area.OfFile(file));
        Assert.Equal(upward, string.Join(" > ", Area.OfFile(file).Upward));
        Assert.Equal(file, Area.OfFile(file).File("t.chain.yaml"));
    }

    [Theory]
    [InlineData("", "sales", true)]
    [InlineData("", "", true)]
    [InlineData("sales", "sales", true)]
    [InlineData("sales", "sales/daily", true)]
    [InlineData("sales", "sales2", false)]
    [InlineData("sales", "salesdaily/x", false)]
    [InlineData("sales/daily", "sales", false)]
    [InlineData("sales", "", false)]
    public void AFolderHoldsWhatLiesBelow(string area, string other, bool holds) =>
        Assert.Equal(holds, new Area(area).Holds(new(other)));

    [Fact]
    public void TheWorkspaceItselfIsTheDefault()
    {
        Assert.Equal(default, new Area(""));
        Assert.Null(Area.Root.Parent);
        Assert.Equal("\"sales/daily\"", JsonSerializer.Serialize(new Area("sales/daily")));
        Assert.Equal(new Area("sales"), JsonSerializer.Deserialize<Area>("\"sales\""));
    }
}
