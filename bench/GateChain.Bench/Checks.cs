using System.Diagnostics;
using System.Text;
using GateChain.Core.Checking;
using GateChain.Kinds;

namespace GateChain.Bench;

/// <summary>
/// How long a chain is read and checked, the search over outcomes included; beside it, how long its file is only read
/// as YAML.
/// </summary>
static class Checks
{
    public static void Measure()
    {
        var check = new ChainCheck(KindDescriptions.Catalogue);
        foreach (var steps in (int[])[200, 250, 500, 1_000])
        {
            var text = Make(steps);
            List<double> checks = [],
                floors = [];
            for (var round = -3; round < 9; round++)
            {
                var clock = Stopwatch.StartNew();
                var (chain, problems) = check.Check("bench.chain.yaml", text);
                var took = clock.Elapsed.TotalMilliseconds;
                if (chain is null || problems.Any(p => p.IsError || p.Code == "GC1304"))
                    throw new InvalidOperationException(string.Join("\n", problems.Take(5)));
                clock.Restart();
                new YamlDotNet.RepresentationModel.YamlStream().Load(new StringReader(text));
                if (round < 0)
                    continue;
                checks.Add(took);
                floors.Add(clock.Elapsed.TotalMilliseconds);
            }
            Console.WriteLine(
                $"{steps, 7:N0} steps, {text.Length / 1024} KiB: checked in "
                    + $"{checks.Order().ElementAt(4):N0} ms [{checks.Min():N0}-{checks.Max():N0}]; "
                    + $"the YAML alone {floors.Order().ElementAt(4):N0} ms"
            );
        }
    }

    // Rows side by side with gates of all kinds between them, and an expression in every step.
    static string Make(int steps)
    {
        var chance = new Random(7);
        var text = new StringBuilder(
            "chain: bench\nparams: { day: { type: timestamp }, most: { type: int, default: 5 } }\nvars: "
                + "{ n: { type: int, initial: 0 } }\nsteps:\n"
        );
        for (var i = 0; i < steps; i++)
        {
            text.Append(
                $"  s{i}:\n    kind: command\n    join: {(chance.Next(4) == 0 ? "any" : "some")}\n    "
                    + $"set: {{ run: [echo, \"${{string(params.day)}} ${{vars.n + {i}}}\"] }}\n    assign: "
                    + $"{{ vars.n: vars.n + result.exit_code }}\n"
            );
        }

        text.Append("gates:\n");
        for (var to = 1; to < steps; to++)
        {
            text.Append(
                $"  - {{ from: s{Math.Max(0, to - 1 - chance.Next(3))}, to: s{to}, on: "
                    + $"{(chance.Next(3) == 0 ? "completion" : "success")} }}\n"
            );
            if (chance.Next(2) == 0)
            {
                text.Append(
                    $"  - {{ from: s{Math.Max(0, to - 4 - chance.Next(6))}, to: s{to}, on: "
                        + $"{(chance.Next(2) == 0 ? "failure" : "always")}, when: vars.n <= params.most && "
                        + $"size(string(params.day)) > {to % 7} }}\n"
                );
            }
        }
        return text.ToString();
    }
}
