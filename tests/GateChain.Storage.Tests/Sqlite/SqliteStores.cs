using GateChain.Storage.Sqlite;
using GateChain.Storage.Tests.Contract;

namespace GateChain.Storage.Tests.Sqlite;

/// <summary>A database file in a folder of its own.</summary>
sealed class SqlitePlace : IStorePlace
{
    readonly TempFolder _folder = new();

    public Task<IStore> OpenAsync() => Task.FromResult<IStore>(new SqliteStore(_folder["db"]));

    public ValueTask DisposeAsync()
    {
        _folder.Dispose();
        return default;
    }
}

public sealed class SqliteJournalTests() : JournalContract(new SqlitePlace());

public sealed class SqliteOutboxTests() : OutboxContract(new SqlitePlace());

public sealed class SqliteRunListTests() : RunListContract(new SqlitePlace());

public sealed class SqliteCatalogueTests() : CatalogueContract(new SqlitePlace());

public sealed class SqliteDraftsTests() : DraftsContract(new SqlitePlace());

public sealed class SqliteAccessTests() : AccessContract(new SqlitePlace());

public sealed class SqliteFilesTests() : FilesContract(new SqlitePlace());

public sealed class SqliteTriggersTests() : TriggersContract(new SqlitePlace());

public sealed class SqliteHistoryTests() : HistoryContract(new SqlitePlace());

public sealed class SqliteRetentionTests() : RetentionContract(new SqlitePlace());
