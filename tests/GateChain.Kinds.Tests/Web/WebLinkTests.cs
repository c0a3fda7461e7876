using GateChain.Kinds.Http;

namespace GateChain.Kinds.Tests.Web;

public sealed class WebLinkTests
{
    [Theory]
    [InlineData("</p?n=2>; rel=\"next\"", "/p?n=2")]
    [InlineData("</p?n=2&x=a,b>; rel=\"next\"", "/p?n=2&x=a,b")]
    [InlineData("</p?n=2>; title=\"x, y; rel=\\\"no\\\"\"; rel=\"next\"", "/p?n=2")]
    [InlineData("</p?n=2>; rel=\"next last\"", "/p?n=2")]
    [InlineData("</p?n=2>;rel=next", "/p?n=2")]
    [InlineData("</p?n=2> ; REL = \"Next\" ; type=\"x\"", "/p?n=2")]
    [InlineData("</p?n=1>; rel=\"prev\", </p?n=3>; rel=\"next\"", "/p?n=3")]
    [InlineData("</p?n=1>; rel=prev , </p?n=3>; title=\",\"; rel=next", "/p?n=3")]
    [InlineData("</p?n=1>; rel=\"prev\"; rel=\"next\"", null)]
    [InlineData("</p?n=1>; title=\"rel=next\"", null)]
    [InlineData("</p?n=1>; rel=\"nextpage\"", null)]
    [InlineData("</p?n=1", null)]
    [InlineData("; ; ,, =", null)]
    [InlineData("", null)]
    [InlineData("<>; rel=next", "")]
    [InlineData("</x>; a; rel=next", "/x")]
    [InlineData("</x>; rel=\"next", "/x")]
    public void TheNextPageIsFoundAsTheStandardWritesIt(string header, string? next) =>
        Assert.Equal(next, WebLink.Next(header));
}
