using GateChain.Core.Chains.Kinds;

namespace GateChain.Kinds.Tests;

public class DescriptionTests
{
    [Fact]
    public void EveryKindIsDescribedWhole()
    {
        foreach (var kind in KindDescriptions.Catalogue.All)
        {
            Assert.NotEmpty(kind.Doc);
            Check(kind.Settings, kind.Name);
            Assert.All(kind.Sample.Keys, name => Assert.Contains(name, kind.Outputs.Keys));
        }

        static void Check(SettingShape shape, string where)
        {
            foreach (var member in shape.Members)
            {
                Assert.False(string.IsNullOrWhiteSpace(member.Doc), $"{where}.{member.Name} has no doc");
                Check(member.Shape, $"{where}.{member.Name}");
                if (member.Shape.Item is { } item)
                    Check(item, $"{where}.{member.Name}[]");
            }
        }
    }
}
