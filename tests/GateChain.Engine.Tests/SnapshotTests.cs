using GateChain.Engine.Reading;

namespace GateChain.Engine.Tests;

public sealed class SnapshotTests : IAsyncDisposable
{
    const string Long =
        "chain: t\nvars: { n: { type: int, initial: 0 } }\nsteps:\n  e: { kind: each, over: "
        + "'[1,2,3,4,5,6,7,8,9,10]', steps: { a: { kind: count, assign: { vars.n: vars.n + item } }, b: "
        + "{ kind: count } }, gates: [ { from: a, to: b } ] }\n  last: { kind: count }\ngates: [ { from: "
        + "e, to: last } ]\noutputs: { n: vars.n }";

    readonly House _house = new(snapshotFrom: 10);

    public ValueTask DisposeAsync() => _house.DisposeAsync();

    string FileOf(long run) => Path.Combine(_house.Work, "data", "snapshots", $"{run}.snapshot");

    async Task<long> CutOffAsync()
    {
        _house.Count.Hanging["last"] = true;
        var run = await _house.RunAsync(Long);
        await _house.InFlightAsync(run, "last");
        await _house.EndEngineAsync();
        Assert.True(File.Exists(FileOf(run)));
        _house.Count.Hanging.Clear();
        return run;
    }

    async Task GoesOnAsync(long run)
    {
        _house.Start(snapshotFrom: 10);
        await _house.Engine.StartAsync();
        Assert.StartsWith("succeeded", await _house.EndAsync(run), StringComparison.Ordinal);
        Assert.Equal("""{"n": 55}""", await _house.Engine.Reader.ReadAsync(run, (s, _) => s.Outputs.ToString()));
        Assert.All(_house.Count.Effects, e => Assert.Equal(1, e.Value));
    }

    [Fact]
    public async Task ALongRunGoesOnFromItsSnapshot() => await GoesOnAsync(await CutOffAsync());

    [Fact]
    public async Task ItIsReadAndNotOnlyWritten()
    {
        var run = await CutOffAsync();
        // Rows that the snapshot holds are not folded: damaged ones are not noticed.
        await _house.Store.DamageAsync(run, seq: 3);
        await GoesOnAsync(run);
    }

    [Theory]
    [InlineData("cut")]
    [InlineData("garbage")]
    [InlineData("gone")]
    [InlineData("empty")]
    [InlineData("another run's")]
    [InlineData("ahead")]
    public async Task OneThatIsNoGoodCostsTimeAndNothingElse(string what)
    {
        var run = await CutOffAsync();
        var bytes = await File.ReadAllBytesAsync(FileOf(run));
        switch (what)
        {
            case "cut":
                await File.WriteAllBytesAsync(FileOf(run), bytes[..(bytes.Length / 2)]);
                break;
            case "garbage":
                bytes[bytes.Length / 2] ^= 1;
                await File.WriteAllBytesAsync(FileOf(run), bytes);
                break;
            case "gone":
                File.Delete(FileOf(run));
                break;
            case "empty":
                await File.WriteAllBytesAsync(FileOf(run), []);
                break;
            case "ahead":
                BitConverter.GetBytes(9999L).CopyTo(bytes, 0);
                System.Security.Cryptography.SHA256.HashData(bytes.AsSpan(..^32)).CopyTo(bytes, bytes.Length - 32);
                await File.WriteAllBytesAsync(FileOf(run), bytes);
                break;
            default:
                _house.Start(snapshotFrom: 10);
                var other = await _house.RunAsync(
                    Long.Replace("vars.n + item", "vars.n - item", StringComparison.Ordinal)
                );
                await _house.EndAsync(other);
                _house.Count.Effects.Clear();
                foreach (var done in Enumerable.Range(0, 10))
                    (_house.Count.Effects[$"e[{done}]/a"], _house.Count.Effects[$"e[{done}]/b"]) = (1, 1);
                File.Copy(FileOf(other), FileOf(run), overwrite: true);
                break;
        }
        await GoesOnAsync(run);
    }

    [Fact]
    public void ADraftCountsOnlyWhenItIsKept()
    {
        using var folder = new TempFolder();
        var files = new SnapshotFiles(folder["s"]);
        Assert.True(files.Draft(7, 5, f => f.WriteByte(1)));
        Assert.Null(files.Read(7, f => "read"));
        files.Keep(7);
        Assert.Equal(("read", 5L), files.Read(7, f => "read"));
        files.Draft(7, 9, f => f.WriteByte(2));
        Assert.Equal(5, files.Read(7, f => "read")!.Value.Seq);
        Assert.Null(files.Read(7, f => (string?)null));
        Assert.False(new SnapshotFiles("/proc/none").Draft(1, 1, _ => { }));
    }
}
