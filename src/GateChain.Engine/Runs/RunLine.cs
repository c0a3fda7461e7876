using GateChain.Core.Running.State;
using GateChain.Core.Values;
using GateChain.Storage;

namespace GateChain.Engine.Runs;

/// <summary>A run's line in lists, as its state has it.</summary>
static class RunLine
{
    public static StoredRun Of(RunState run) =>
        new(
            run.Id,
            run.Chain.Name,
            run.Release,
            run.Word,
            run.Leg,
            run.By,
            run.Started!.Value,
            run.Ended,
            ValueJson.ToText(
                Value.Map(DictionaryMap.Of(run.Params.Entries.Select(e => KeyValuePair.Create(e.Key, Short(e.Value)))))
            ),
            run.Error?.Message,
            run.IsLate,
            run.ResumeAt,
            run.Parent is { } link ? new(link.Run, link.Step, link.Attempt) : null,
            run.Origin.Word,
            run.Origin.Key,
            run.Area,
            run.Fire?.Trigger
        );

    // Lists of runs show what tells them apart; a run itself has all of it.
    static Value Short(Value value) => value.Size <= 500 ? value : Value.String(ValueText.Show(value, 200));
}
