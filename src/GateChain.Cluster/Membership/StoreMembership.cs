using System.Globalization;
using System.Text.Json;
using GateChain.Storage;

namespace GateChain.Cluster.Membership;

/// <summary>
/// The table in which silos agree on who is there, in the store that the nodes share: one connection, one backup, one
/// schema. Moments in it are the database's; a silo compares them with its own clock, and clocks may differ: they are
/// told by its clock. Thread-safe.
/// </summary>
/// <remarks>Source: the contract of Orleans' IMembershipTable.</remarks>
/// <param name="members">Where it is.</param>
/// <param name="time">This machine's clock.</param>
sealed class StoreMembership(IMembers members, TimeProvider time) : IMembershipTable
{
    sealed record Body(
        SiloStatus Status,
        string Name,
        string Host,
        DateTime Started,
        DateTime Alive,
        IReadOnlyList<Suspicion> Suspicions
    );

    sealed record Suspicion(string By, DateTime At);

    static string IdOf(SiloAddress silo) => silo.ToParsableString();

    // How far the database's clock is before this machine's.
    long _ahead;

    TimeSpan Ahead => new(Volatile.Read(ref _ahead));

    string TextOf(MembershipEntry entry) =>
        JsonSerializer.Serialize(
            new Body(
                entry.Status,
                entry.SiloName,
                entry.HostName,
                entry.StartTime + Ahead,
                entry.IAmAliveTime + Ahead,
                [.. (entry.SuspectTimes ?? []).Select(s => new Suspicion(IdOf(s.Item1), s.Item2 + Ahead))]
            )
        );

    Tuple<MembershipEntry, string> EntryOf(MemberRow row)
    {
        var body = JsonSerializer.Deserialize<Body>(row.Body)!;
        var entry = new MembershipEntry
        {
            SiloAddress = SiloAddress.FromParsableString(row.Id),
            Status = body.Status,
            SiloName = body.Name,
            HostName = body.Host,
            StartTime = body.Started - Ahead,
            IAmAliveTime = body.Alive - Ahead,
            SuspectTimes =
            [
                .. body.Suspicions.Select(s => Tuple.Create(SiloAddress.FromParsableString(s.By), s.At - Ahead)),
            ],
        };
        return Tuple.Create(entry, Tag(row.Version));
    }

    static string Tag(long version) => version.ToString(CultureInfo.InvariantCulture);

    public Task InitializeMembershipTable(bool tryInitTableVersion) => Task.CompletedTask;

    public async Task DeleteMembershipTableEntries(string clusterId) =>
        await RemoveAsync(_ => true).ConfigureAwait(false);

    public Task CleanupDefunctSiloEntries(DateTimeOffset beforeDate) =>
        RemoveAsync(e => e.Status == SiloStatus.Dead && e.IAmAliveTime < beforeDate.UtcDateTime);

    async Task RemoveAsync(Func<MembershipEntry, bool> which)
    {
        var (_, rows) = await ReadAsync().ConfigureAwait(false);
        var gone = rows.Where(r => which(EntryOf(r).Item1)).Select(r => r.Id).ToList();
        if (gone.Count > 0)
            await members.RemoveAsync(gone).ConfigureAwait(false);
    }

    /// <summary>Says of silos that they are gone, before one joins that would try to reach them.</summary>
    /// <param name="names">Tells by their names which.</param>
    public async Task BuryAsync(Func<string, bool> names)
    {
        while (true)
        {
            var (version, rows) = await ReadAsync().ConfigureAwait(false);
            var entry = rows.Select(EntryOf)
                .FirstOrDefault(e => e.Item1.Status != SiloStatus.Dead && names(e.Item1.SiloName));
            if (entry is null)
                return;
            entry.Item1.Status = SiloStatus.Dead;
            await UpdateRow(entry.Item1, entry.Item2, new((int)version + 1, Tag(version + 1))).ConfigureAwait(false);
        }
    }

    public async Task<MembershipTableData> ReadRow(SiloAddress key)
    {
        var (version, rows) = await ReadAsync().ConfigureAwait(false);
        return Of(version, rows.Where(r => r.Id == IdOf(key)));
    }

    public async Task<MembershipTableData> ReadAll()
    {
        var (version, rows) = await ReadAsync().ConfigureAwait(false);
        return Of(version, rows);
    }

    async Task<(long Version, IReadOnlyList<MemberRow> Rows)> ReadAsync()
    {
        var table = await members.ReadAsync().ConfigureAwait(false);
        Volatile.Write(ref _ahead, (table.Now - time.GetUtcNow()).Ticks);
        return (table.Version, table.Rows);
    }

    MembershipTableData Of(long version, IEnumerable<MemberRow> rows) =>
        new([.. rows.Select(EntryOf)], new TableVersion((int)version, Tag(version)));

    public Task<bool> InsertRow(MembershipEntry entry, TableVersion tableVersion) =>
        members.WriteAsync(new(IdOf(entry.SiloAddress), 1, TextOf(entry)), tableVersion.Version);

    public Task<bool> UpdateRow(MembershipEntry entry, string etag, TableVersion tableVersion) =>
        members.WriteAsync(
            new(IdOf(entry.SiloAddress), long.Parse(etag, CultureInfo.InvariantCulture) + 1, TextOf(entry)),
            tableVersion.Version
        );

    public Task UpdateIAmAlive(MembershipEntry entry) =>
        members.TouchAsync(IdOf(entry.SiloAddress), text =>
            JsonSerializer.Serialize(
                JsonSerializer.Deserialize<Body>(text)! with
                {
                    Alive = entry.IAmAliveTime + Ahead,
                }
            )
        );
}
