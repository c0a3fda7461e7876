namespace GateChain.Client;

/// <summary>Data that steps read and write.</summary>
/// <param name="Form"><c>file</c>, <c>table</c> or <c>address</c>.</param>
/// <param name="Connection">The connection that leads to it; null for this machine or the web.</param>
/// <param name="Name">A path, a table, an address; <c>*</c> and <c>${…}</c> in it stand for anything.</param>
public sealed record DatasetInfo(string Form, string? Connection, string Name)
{
    /// <summary>The connection and the name, as people write them: <c>warehouse:pickups</c>.</summary>
    public override string ToString() => Connection is null ? Name : $"{Connection}:{Name}";
}

/// <summary>A step of a chain that reads or writes data.</summary>
public sealed record DataStepInfo(string Chain, string Step);

/// <summary>Data, and the steps that write and read it.</summary>
public sealed record DatasetUsesInfo(
    DatasetInfo Data,
    IReadOnlyList<DataStepInfo> Writers,
    IReadOnlyList<DataStepInfo> Readers
);

/// <summary>Data go from one place to another through a step.</summary>
/// <param name="From">What the step reads.</param>
/// <param name="Through">The step.</param>
/// <param name="To">What it writes.</param>
/// <param name="Steps">How many steps away from what was asked for, from 1.</param>
public sealed record DataFlowInfo(DatasetInfo From, DataStepInfo Through, DatasetInfo To, int Steps);

/// <summary>Where some data come from, and where they go.</summary>
/// <param name="Uses">The data, and who writes and reads it.</param>
/// <param name="Before">What feeds it, nearest first.</param>
/// <param name="After">What comes of it, nearest first.</param>
public sealed record LineageInfo(
    DatasetUsesInfo Uses,
    IReadOnlyList<DataFlowInfo> Before,
    IReadOnlyList<DataFlowInfo> After
);

/// <summary>What a step of a run did with data.</summary>
/// <param name="Step">The step's address in its chain.</param>
/// <param name="Direction"><c>reads</c> or <c>writes</c>.</param>
/// <param name="Data">The data.</param>
public sealed record StepDataInfo(string Step, string Direction, DatasetInfo Data);
