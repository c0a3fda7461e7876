using System.Diagnostics;
using GateChain.Kinds.Command;

namespace GateChain.Kinds.Tests.Command;

/// <summary>What ends the programs of a node that can't.</summary>
public sealed class ProgramGuardTests
{
    static Process Start(string node, string script = "sleep 300")
    {
        var start = new ProcessStartInfo("setsid", ["sh", "-c", script]);
        start.Environment[ProgramGuard.Variable] = node;
        return Process.Start(start)!;
    }

    static string Id() => $"n.{Guid.NewGuid():N}";

    /// <summary>Beats that come when the test says so.</summary>
    sealed class Beats : TextReader
    {
        readonly System.Threading.Channels.Channel<string?> _lines =
            System.Threading.Channels.Channel.CreateUnbounded<string?>();

        public void Beat() => _lines.Writer.TryWrite("");

        public void End() => _lines.Writer.TryWrite(null);

        public override async Task<string?> ReadLineAsync() => await _lines.Reader.ReadAsync();
    }

    [Fact]
    public async Task WhenTheNodeEndsItsProgramsDoAndNobodyElses()
    {
        var (own, other) = (Id(), Id());
        // One that made a session of its own, and one within another.
        using var program = Start(own, "sh -c 'setsid sleep 300 & sleep 300'");
        using var others = Start(other);
        var beats = new Beats();
        var ended = 0;
        var guard = ProgramGuard.WatchAsync(own, beats, TimeSpan.FromMinutes(5), count => ended += count);
        beats.Beat();
        await Until(() => Marked(own) >= 3);
        Assert.False(guard.IsCompleted);
        beats.End();
        await guard.WaitAsync(TimeSpan.FromSeconds(30));
        Assert.Equal(0, Marked(own));
        Assert.True(ended >= 3, $"{ended}");
        Assert.NotEqual(0, Marked(other));
        others.Kill(entireProcessTree: true);
    }

    [Fact]
    public async Task OneThatIsSilentHasItsProgramsEndedAndIsWatchedOn()
    {
        var own = Id();
        using var program = Start(own);
        var beats = new Beats();
        var guard = ProgramGuard.WatchAsync(own, beats, TimeSpan.FromMilliseconds(300), _ => { });
        await program.WaitForExitAsync().WaitAsync(TimeSpan.FromSeconds(30));
        // It is heard again: the guard is there all the same.
        beats.Beat();
        Assert.False(guard.IsCompleted);
        beats.End();
        await guard.WaitAsync(TimeSpan.FromSeconds(30));
    }

    static int Marked(string node) =>
        Directory
            .EnumerateDirectories("/proc")
            .Count(p =>
            {
                try
                {
                    return File.ReadAllText(Path.Combine(p, "environ"))
                        .Split('\0')
                        .Contains($"{ProgramGuard.Variable}={node}");
                }
                catch (Exception e) when (e is IOException or UnauthorizedAccessException)
                {
                    return false;
                }
            });

    static async Task Until(Func<bool> holds)
    {
        for (var i = 0; !holds(); i++)
        {
            Assert.True(i < 600, "it does not come to that");
            await Task.Delay(50);
        }
    }
}
