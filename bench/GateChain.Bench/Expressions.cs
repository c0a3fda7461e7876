using System.Diagnostics;
using GateChain.Core.Expressions;
using GateChain.Core.Values;

namespace GateChain.Bench;

/// <summary>
/// What an expression costs: its evaluation beside a C# lambda that does the same, and its parse and check.
/// </summary>
static class Expressions
{
    const string Text = "steps.load.rows_rejected <= params.max_bad && size(vars.list) > 3";
    const int Rounds = 7;

    sealed record Load(long Rejected);

    sealed record Bare(Dictionary<string, Load> Steps, long MaxBad, List<long> List);

    static readonly CelType Scope = CelType.Object(
        new Dictionary<string, CelType>
        {
            ["steps"] = CelType.Object(
                new Dictionary<string, CelType>
                {
                    ["load"] = CelType.Object(new Dictionary<string, CelType> { ["rows_rejected"] = CelType.Int }),
                }
            ),
            ["params"] = CelType.Object(new Dictionary<string, CelType> { ["max_bad"] = CelType.Int }),
            ["vars"] = CelType.Object(new Dictionary<string, CelType> { ["list"] = CelType.List(CelType.Int) }),
        }
    );

    public static void Measure()
    {
        var expression = Expression.Parse(Text).Expression!;
        var names = new DictionaryBindings(
            new Dictionary<string, Value>
            {
                ["steps"] = Value.Map(("load", Value.Map(("rows_rejected", Value.Int(7))))),
                ["params"] = Value.Map(("max_bad", Value.Int(50))),
                ["vars"] = Value.Map(("list", Value.List([.. Enumerable.Range(0, 5).Select(i => Value.Int(i))]))),
            }
        );
        var bare = new Bare(new() { ["load"] = new(7) }, 50, [0, 1, 2, 3, 4]);
        Func<Bare, bool> lambda = b => b.Steps["load"].Rejected <= b.MaxBad && b.List.Count > 3;
        List<double> ours = [],
            theirs = [],
            ratios = [],
            parses = [];
        for (var round = -2; round < Rounds; round++)
        {
            var mine = PerSecond(200_000, () => expression.Evaluate(names).IsTrue);
            var floor = PerSecond(5_000_000, () => lambda(bare));
            var parse =
                1e6 / PerSecond(20_000, () => Expression.Parse(Text).Expression!.Check(Scope).Problems.Count == 0);
            if (round < 0)
                continue;
            ours.Add(mine);
            theirs.Add(floor);
            ratios.Add(mine / floor);
            parses.Add(parse);
        }
        Console.WriteLine($"{Text}");
        Console.WriteLine(
            $"  on one core: {Median(ours):N0} evaluations/s; a C# lambda {Median(theirs):N0}/s; "
                + $"ratio {Median(ratios):0.0000} [{ratios.Min():0.0000}-{ratios.Max():0.0000}]"
        );
        Console.WriteLine($"  parse and check: {Median(parses):0.0} µs [{parses.Min():0.0}-{parses.Max():0.0}]");
    }

    static double PerSecond(int times, Func<bool> what)
    {
        var clock = Stopwatch.StartNew();
        for (var i = 0; i < times; i++)
        {
            if (!what())
                throw new InvalidOperationException("it does not hold");
        }
        return times / clock.Elapsed.TotalSeconds;
    }

    static double Median(List<double> values) => values.Order().ElementAt(values.Count / 2);
}
