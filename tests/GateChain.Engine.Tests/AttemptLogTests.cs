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
        var (text, next) = logs.Read(1, 7);
        Assert.Matches(@"^\S+Z out  first\n\S+Z err  zweite Zeile: ü\n$", text);
        Assert.Equal(("", next), logs.Read(1, 7, next));
        Assert.Equal(("", 0L), logs.Read(1, 8));
        using (var log = logs.Open(1, 7))
        {
            log.Write("note", "third");
        }
        Assert.EndsWith("third\n", logs.Read(1, 7, next).Text);
    }
}
