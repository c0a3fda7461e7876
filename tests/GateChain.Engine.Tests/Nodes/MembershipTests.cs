using System.Net;
using GateChain.Cluster.Membership;
using GateChain.Storage;
using Microsoft.Extensions.Time.Testing;
using Orleans;
using Orleans.Runtime;

namespace GateChain.Engine.Tests.Nodes;

/// <summary>What nodes tell each other of moments, though their clocks differ.</summary>
public sealed class MembershipTests
{
    static readonly DateTimeOffset Noon = new(2026, 3, 2, 12, 0, 0, TimeSpan.Zero);

    sealed class Table : IMembers
    {
        readonly Dictionary<string, MemberRow> _rows = [];
        long _version;

        public ValueTask<MemberTable> ReadAsync() => new(new MemberTable(_version, Noon, [.. _rows.Values]));

        public Task<bool> WriteAsync(MemberRow row, long version)
        {
            if (version != _version + 1)
                return Task.FromResult(false);
            (_rows[row.Id], _version) = (row, version);
            return Task.FromResult(true);
        }

        public Task TouchAsync(string id, Func<string, string> body)
        {
            _rows[id] = _rows[id] with { Body = body(_rows[id].Body) };
            return Task.CompletedTask;
        }

        public Task RemoveAsync(IReadOnlyCollection<string> ids) => throw new NotSupportedException();
    }

    static readonly SiloAddress Silo = SiloAddress.New(IPAddress.Loopback, 11111, 1),
        Other = SiloAddress.New(IPAddress.Loopback, 11112, 1);

    [Fact]
    public async Task AMomentIsTheSameForClocksThatDiffer()
    {
        var table = new Table();
        // One is half a minute ahead of the database, one behind it.
        var ahead = new StoreMembership(table, new FakeTimeProvider(Noon.AddSeconds(30)));
        var behind = new StoreMembership(table, new FakeTimeProvider(Noon.AddSeconds(-20)));
        var now = Noon.AddSeconds(30).UtcDateTime;
        var read = await ahead.ReadAll();
        var entry = new MembershipEntry
        {
            SiloAddress = Silo,
            Status = SiloStatus.Active,
            SiloName = "n0",
            HostName = "here",
            StartTime = now.AddSeconds(-5),
            IAmAliveTime = now.AddSeconds(-1),
            SuspectTimes = [Tuple.Create(Other, now.AddSeconds(-2))],
        };
        Assert.True(await ahead.InsertRow(entry, read.Version.Next()));

        // As long ago by the other one's clock.
        var (seen, tag) = (await behind.ReadRow(Silo)).Members.Single();
        var then = Noon.AddSeconds(-20).UtcDateTime;
        Assert.Equal(then.AddSeconds(-5), seen.StartTime);
        Assert.Equal(then.AddSeconds(-1), seen.IAmAliveTime);
        Assert.Equal([Tuple.Create(Other, then.AddSeconds(-2))], seen.SuspectTimes);

        // What it writes comes back the same way; of two who change something, the second is told so.
        seen.SuspectTimes = [Tuple.Create(Other, then)];
        var version = (await behind.ReadAll()).Version;
        Assert.True(await behind.UpdateRow(seen, tag, version.Next()));
        Assert.False(await ahead.UpdateRow(entry, tag, version.Next()));
        entry.IAmAliveTime = now;
        await ahead.UpdateIAmAlive(entry);
        var last = (await ahead.ReadAll()).Members.Single().Item1;
        Assert.Equal((now, now), (last.IAmAliveTime, last.SuspectTimes!.Single().Item2));
    }
}
