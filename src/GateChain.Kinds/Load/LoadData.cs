using GateChain.Core.Datasets;
using GateChain.Kinds.Databases;

namespace GateChain.Kinds.Load;

/// <summary>Which data a load reads and writes, by its settings. Pure.</summary>
static class LoadData
{
    static readonly string[] Texts = ["csv", "fixed", "jsonl", "json", "xml", "parquet", "xlsx"];

    /// <summary>All of it.</summary>
    public static IEnumerable<DataUse> Of(SettingTexts settings) =>
        [
            .. From(settings.Under("from")),
            .. Files(settings.Under("into"), DataDirection.Writes, settings["into.server"], Texts),
            .. Table(settings.Under("into"), DataDirection.Writes),
            .. Files(settings, DataDirection.Writes, null, "reject.file"),
        ];

    /// <summary>What stands under <c>from</c>.</summary>
    public static IEnumerable<DataUse> From(SettingTexts from) =>
        [
            .. Files(from, DataDirection.Reads, from["server"], Texts),
            .. Table(from, DataDirection.Reads),
            .. from["connection"] is { } connection && from.Content("query") is { } query
                ? SqlTables.Of(connection, query)
                : [],
        ];

    /// <summary>Files that settings name.</summary>
    public static IEnumerable<DataUse> Files(
        SettingTexts settings,
        DataDirection direction,
        string? connection,
        params IEnumerable<string> names
    ) =>
        names
            .Select(name => settings[name])
            .OfType<string>()
            .Select(path => new DataUse(direction, new(DataForm.File, connection, path)));

    /// <summary>The table that <c>connection</c> and <c>table</c> name.</summary>
    public static IEnumerable<DataUse> Table(SettingTexts settings, DataDirection direction) =>
        settings["connection"] is { } connection && settings["table"] is { } table
            ? [new(direction, new(DataForm.Table, connection, table))]
            : [];
}
