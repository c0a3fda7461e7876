using GateChain.Kinds.Load.Sources;

namespace GateChain.Kinds.Tests.Load;

public sealed class BoundedLinesTests
{
    [Theory]
    [InlineData("")]
    [InlineData("a")]
    [InlineData("a\n")]
    [InlineData("a\n\nb")]
    [InlineData("a\r\nb\r\n")]
    [InlineData("\n\n")]
    [InlineData("grüße\n😀")]
    public void LinesAreThoseThatTheLibraryReads(string text)
    {
        foreach (var copies in (int[])[1, 20_000])
        {
            var whole = string.Concat(Enumerable.Repeat(text, copies));
            using var expected = new StringReader(whole);
            using var lines = new BoundedLines(new StringReader(whole), 1 << 20);
            while (expected.ReadLine() is { } line)
                Assert.Equal(line, lines.Next());
            Assert.Null(lines.Next());
        }
    }

    [Fact]
    public void ALineWithoutEndIsNotTakenIntoMemory()
    {
        var read = 0L;
        using var lines = new BoundedLines(new Endless(n => read += n), 1 << 20);
        Assert.Throws<InvalidDataException>(() => lines.Next());
        Assert.InRange(read, 1 << 20, (1 << 20) + (1 << 17));
    }

    sealed class Endless(Action<int> told) : TextReader
    {
        public override int Read(char[] buffer, int index, int count)
        {
            buffer.AsSpan(index, count).Fill('x');
            told(count);
            return count;
        }
    }
}
