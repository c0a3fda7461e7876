using GateChain.Engine.Logs;

namespace GateChain.Engine.Tests;

public sealed class AttemptLogTests : IDisposable
{
    readonly TempFolder _folder = new();

    public void Dispose() => _folder.Dispose();

    [Fact]
    public void LogsAreReadLineByLineFromAnyPlace()
    {
        var logs = new AttemptLogs(_folder["logs"], TimeProvider.System);
        using (var log = logs.Open(1, 7))
        {
            log.Write("out", "first");
            log.Write("err", "zweite Zeile: ü");
        }
        var (text, from, next, size) = logs.Read(1, 7);
        Assert.Matches(@"^\S+Z out  first\n\S+Z err  zweite Zeile: ü\n$", text);
        Assert.Equal((0, size), (from, next));
        Assert.Equal(new("", next, next, next), logs.Read(1, 7, next));
        Assert.Equal(new("", 0, 0, 0), logs.Read(1, 8));
        using (var log = logs.Open(1, 7))
        {
            log.Write("note", "third");
        }
        Assert.EndsWith("third\n", logs.Read(1, 7, next).Text);
    }

    AttemptLogs Filled(int lines, Func<int, (string Level, string Text)> line)
    {
        var logs = new AttemptLogs(_folder["logs"], TimeProvider.System);
        using var log = logs.Open(1, 1);
        for (var i = 0; i < lines; i++)
            log.Write(line(i).Level, line(i).Text);
        return logs;
    }

    /// <summary>Forwards, backwards, whatever the size of a page: each line once, in order, none cut.</summary>
    [Theory]
    [InlineData(60)]
    [InlineData(100)]
    [InlineData(1_000)]
    [InlineData(1 << 20)]
    public void ALogIsPagedBothWaysAndNothingIsLost(int most)
    {
        var logs = Filled(200, i => ("out", new string('ü', i % 7) + i));
        var whole = logs.Read(1, 1).Text;
        var (forwards, backwards) = ("", "");
        for (LogPart page = new("", 0, 0, 0); (page = logs.Read(1, 1, page.Next, most)).Text != ""; )
            forwards += page.Text;
        Assert.Equal(whole, forwards);
        for (LogPart page = new("", long.MaxValue, 0, 0); (page = logs.ReadBefore(1, 1, page.From, most)).Text != ""; )
        {
            backwards = page.Text + backwards;
            Assert.True(page.From < page.Next);
        }
        Assert.Equal(whole, backwards);
        Assert.Equal(new("", 0, 0, 0), logs.ReadBefore(1, 2, 5));
        Assert.Equal("", logs.ReadBefore(1, 1, 0).Text);
        Assert.Equal("", logs.ReadBefore(1, 1, -5).Text);
    }

    [Theory]
    [InlineData("FARM", null, "7 17 27")]
    [InlineData("", "err", "7 17 27")]
    [InlineData("farm", "note", "")]
    [InlineData("Größe 1", null, "1 10 11 12 13 14 15 16 18 19")]
    [InlineData("Z out", null, "")]
    public void LinesAreFoundByTextAndLevel(string text, string? level, string expected)
    {
        var logs = Filled(30, i => i % 10 == 7 ? ("err", $"row {i}: farm_id is empty") : ("out", $"größe {i}"));
        foreach (var limit in (int[])[1, 2, 100])
        {
            var found = new List<string>();
            for (LogHits hits = new([], 0, 1); hits.Next < hits.Size; )
            {
                hits = logs.Search(1, 1, new(text, level, hits.Next, limit), default);
                Assert.True(hits.Hits.Count <= limit);
                foreach (var hit in hits.Hits)
                {
                    Assert.StartsWith(hit.Line + "\n", logs.Read(1, 1, hit.At).Text, StringComparison.Ordinal);
                    found.Add(new string([.. hit.Line[30..].Where(char.IsDigit)]));
                }
            }
            Assert.Equal(expected, string.Join(' ', found));
        }
    }

    [Fact]
    public void ALineOfSeveralMegabytesAndOneWithoutAnEndAreSearchedToo()
    {
        var logs = Filled(3, i => ("err", new string((char)('a' + i), i == 1 ? 3 << 20 : 10)));
        File.AppendAllText(Path.Combine(_folder["logs"], "1", "1.log"), "  continued ccc");
        var found = logs.Search(1, 1, new("ccc", "err", 0, 10), default);
        Assert.Equal(
            ["cccccccccc", "  continued ccc"],
            found.Hits.Select(h => h.Line.Length > 30 ? h.Line[30..] : h.Line)
        );
        Assert.Equal(found.Size, found.Next);
        // It is looked through in pieces, and what is told of each has an end.
        Assert.All(logs.Search(1, 1, new("bbb", null, 0, 3), default).Hits, h => Assert.Equal(2_000, h.Line.Length));
        Assert.Throws<OperationCanceledException>(() => logs.Search(1, 1, new("x", null, 0, 9), new(canceled: true)));
    }
}
