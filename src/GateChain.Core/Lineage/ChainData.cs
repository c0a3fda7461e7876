using System.Text.RegularExpressions;
using GateChain.Core.Chains;
using GateChain.Core.Datasets;
using GateChain.Core.Running.State;
using GateChain.Core.Values;

namespace GateChain.Core.Lineage;

/// <summary>What a step of a chain does with data.</summary>
/// <param name="Step">The step's address in the chain, without the numbers of iterations.</param>
/// <param name="Use">What it does.</param>
public sealed record StepData(string Step, DataUse Use);

/// <summary>Which data a chain reads and writes, as it is declared and as a run had it. Pure.</summary>
public static partial class ChainData
{
    /// <summary>The most that are told of a run with very many iterations.</summary>
    public const int Most = 10_000;

    /// <summary>What the steps say. Expressions stand as they are written.</summary>
    /// <param name="chain">The chain.</param>
    /// <param name="attachment">The text of an attachment; null when it is not there.</param>
    public static IReadOnlyList<StepData> Declared(Chain chain, Func<string, string?> attachment) =>
        [
            .. chain
                .AllSteps.Where(s => s.Kind.Data is not null)
                .SelectMany(s => Of(s, Written(s.Settings), attachment))
                .Select(s => Kept(s, chain))
                .Distinct(),
        ];

    /// <summary>What the attempts of a run were given, those of its latest leg. At most <see cref="Most"/>.</summary>
    /// <param name="run">The run.</param>
    /// <param name="attachment">The text of an attachment; null when it is not there.</param>
    public static IReadOnlyList<StepData> Seen(RunState run, Func<string, string?> attachment) =>
        [
            .. run
                .AllSteps.Where(s => s.Step.Kind.Data is not null && s.Leg == run.Leg && s.Attempt > 0)
                .SelectMany(s => Of(s.Step, s.Inputs, attachment))
                .Distinct()
                .Take(Most),
        ];

    // What another step has found is one of what it looks for; the folder of a run is no other run's.
    static StepData Kept(StepData data, Chain chain)
    {
        var name = Found.Match(data.Use.Data.Name) is { Success: true } found
            ? Looked(chain, data.Step, found.Groups["step"].Value) ?? data.Use.Data.Name
            : data.Use.Data.Name;
        var within = name.Contains("${run.", StringComparison.Ordinal) ? chain.Name : null;
        return data with { Use = data.Use with { Data = data.Use.Data with { Name = name, Within = within } } };
    }

    [GeneratedRegex(@"^\$\{\s*steps\.(?<step>\w+)\.newest\s*\}$")]
    private static partial Regex Found { get; }

    // The path that a step of this or an outer scope looks for.
    static string? Looked(Chain chain, string from, string id)
    {
        for (var scope = from.LastIndexOf('/'); ; scope = from.LastIndexOf('/', scope - 1))
        {
            var address = scope < 0 ? id : $"{from[..scope]}/{id}";
            if (chain.AllSteps.FirstOrDefault(s => s.Address == address) is { } step)
                return step.Settings["path"] is TemplateSetting { Template.Text: var text } ? text : null;
            if (scope <= 0)
                return null;
        }
    }

    static IEnumerable<StepData> Of(Step step, Value settings, Func<string, string?> attachment) =>
        step.Kind.Data!(new(settings, attachment)).Select(use => new StepData(step.Address, use));

    static Value Written(Setting setting) =>
        setting switch
        {
            TemplateSetting template => Value.String(template.Template.Text),
            ExpressionSetting expression => Value.String($"${{{expression.At.Expression.Text}}}"),
            ListSetting list => Value.List([.. list.Items.Select(Written)]),
            MapSetting map => Value.Map(
                DictionaryMap.Of(map.Entries.Select(e => KeyValuePair.Create(e.Key, Written(e.Value))))
            ),
            _ => setting.Constant ?? Value.Null,
        };
}
