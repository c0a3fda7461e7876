using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Databases;
using GateChain.Kinds.Load.Sources;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Load;

/// <summary>The columns that a load would meet, for whoever designs one. Nothing is read but names.</summary>
/// <param name="Source">The source's columns; empty when they can't be told.</param>
/// <param name="Target">The target table's columns; empty when there is none, or no table.</param>
/// <param name="Problem">Why something can't be told; null when all can.</param>
public sealed record LoadColumns(IReadOnlyList<string> Source, IReadOnlyList<string> Target, string? Problem)
{
    /// <summary>Looks once. Failures are told, not thrown.</summary>
    /// <param name="from">Where rows come from; null when that is not known.</param>
    /// <param name="into">Where they go.</param>
    public static LoadColumns Look(Value? from, Value into, AttemptContext context, CancellationToken cancel)
    {
        var (bound, problem) = SettingsBinder.Bind<LoadSettings>(
            Value.Map(("from", from ?? Value.EmptyMap), ("into", into))
        );
        if (bound is null)
            return new([], [], problem);
        var (source, why) = from is null
            ? ([], null)
            : Try(() =>
            {
                using var rows = RowSources.Open(bound, context, cancel);
                return [.. rows.Names];
            });
        var (target, whyTarget) = bound.Into is not { Connection: { } connection, Table: { } table }
            ? ([], null)
            : Try(() =>
            {
                using var session = Session.Open(connection, context, cancel);
                return session.ColumnsOf(table);
            });
        return new(source, target, why ?? whyTarget);
    }

    static (IReadOnlyList<string> Names, string? Problem) Try(Func<IReadOnlyList<string>> look)
    {
        try
        {
            return (look(), null);
        }
        catch (StepFailedException e)
        {
            return ([], e.Message);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException or System.Data.Common.DbException)
        {
            return ([], e.Message);
        }
    }
}
