using System.CommandLine;
using GateChain.Cli.Terminal;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain kept CHAIN</c>: what a chain keeps from run to run.</summary>
static class KeptCommand
{
    static readonly Argument<string> Chain = new("CHAIN") { Description = "The chain's name" };

    static readonly Option<string?> Profile = new("--profile")
    {
        Description = "The profile of the runs; without it those without a name",
    };

    static readonly Option<string[]> Set = new("--set", "-s")
    {
        Description = "Set a variable: name=value; may be repeated",
    };

    static readonly Option<string[]> Reset = new("--reset")
    {
        Description = "Let a variable begin with its initial value again; may be repeated",
    };

    static readonly Option<string[]> Position = new("--position")
    {
        Description = "Set how far a step has got in what it reads: name=value; may be repeated",
    };

    static readonly Option<string[]> Forget = new("--forget")
    {
        Description = "Let what goes by a position begin at the start again; may be repeated",
    };

    public static Command Create() =>
        ServiceCommand.Create(
            "kept",
            "Shows what a chain keeps from run to run; sets or resets it",
            async (parsed, client, cancel) =>
            {
                var (chain, set, reset) = (
                    parsed.GetValue(Chain)!,
                    parsed.GetValue(Set) ?? [],
                    parsed.GetValue(Reset) ?? []
                );
                if (set.Length + reset.Length > 0)
                {
                    await client.SetKeptAsync(
                        chain,
                        new(parsed.GetValue(Profile), ServiceCommand.Pairs(set), reset),
                        cancel
                    );
                }
                var profile = parsed.GetValue(Profile);
                foreach (var (name, value) in ServiceCommand.Pairs(parsed.GetValue(Position) ?? []))
                    await client.SetPositionAsync(chain, new(name, value, profile), cancel);
                foreach (var name in parsed.GetValue(Forget) ?? [])
                    await client.SetPositionAsync(chain, new(name, Value: null, profile), cancel);
                var kept = await client.KeptAsync(chain, cancel);
                var positions = await client.PositionsAsync(chain, cancel);
                if (parsed.GetValue(ServiceCommand.Json))
                {
                    ServiceCommand.WriteJson(new { kept, positions });
                    return ExitCodes.Succeeded;
                }
                if (kept.Count + positions.Count == 0)
                {
                    Console.WriteLine(
                        $"{chain} keeps nothing yet: variables with keep: true are kept when a run succeeds, and how "
                            + "far a load with since has got when its step does"
                    );
                }
                foreach (var one in kept)
                {
                    Console.WriteLine(
                        $"{(one.Profile.Length == 0 ? "without a profile" : $"profile {one.Profile}")}: version "
                            + $"{one.Version}, "
                            + $"{(one.Run is { } run ? $"of run {run}" : $"set by {Words.Plain(one.By ?? "")}")}, "
                            + Words.At(one.At)
                    );
                    foreach (var value in one.Values.EnumerateObject())
                        Console.WriteLine($"  {value.Name} = {Words.Plain(value.Value.GetRawText())}");
                }
                foreach (var one in positions)
                {
                    Console.WriteLine(
                        $"{(one.Profile.Length == 0 ? "without a profile" : $"profile {one.Profile}")}: position "
                            + $"{Words.Plain(one.Name)} = {Words.Plain(one.Value.GetRawText())}, "
                            + (
                                one.Run is { } run
                                    ? $"step {Words.Plain(one.Step ?? "")} of run {run}, "
                                    : $"set by {Words.Plain(one.By ?? "")}, "
                            )
                            + Words.At(one.At)
                    );
                }
                return ExitCodes.Succeeded;
            },
            Chain,
            Profile,
            Set,
            Reset,
            Position,
            Forget
        );
}
