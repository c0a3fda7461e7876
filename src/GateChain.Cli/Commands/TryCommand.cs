using System.CommandLine;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain try CHAIN</c></summary>
static class TryCommand
{
    static readonly Argument<string> Chain = new("CHAIN") { Description = "The chain's name" };
    static readonly Option<string?> Source = new("--file")
    {
        Description = "A chain file to try in the place of the draft",
    };
    static readonly Option<string[]> Param = new("--param", "-p")
    {
        Description = "A parameter, name=value; again for more",
    };
    static readonly Option<string?> Profile = new("--profile") { Description = "The profile to run under" };
    static readonly Option<string?> From = new("--from") { Description = "Only this step and all steps after it" };
    static readonly Option<string?> Only = new("--only") { Description = "Only this step" };
    static readonly Option<string?> UpTo = new("--up-to") { Description = "Only this step and everything before it" };
    static readonly Option<long?> Known = new("--known")
    {
        Description = "Take the steps before it from this run; without, they count as succeeded without outputs",
    };
    static readonly Option<string[]> Given = new("--given")
    {
        Description = "Outputs of a step before it, STEP={\"name\": value}; again for more",
    };
    static readonly Option<string[]> Pause = new("--pause-before")
    {
        Description = "Pause before this step; again for more. Continue with: gatechain resume",
    };

    public static Command Create() =>
        ServiceCommand.Create(
            "try",
            "Runs a draft, or a part of it, without releasing it",
            async (parsed, client, cancel) =>
            {
                var chain = parsed.GetValue(Chain)!;
                var (part, step) = (parsed.GetValue(From), parsed.GetValue(Only), parsed.GetValue(UpTo)) switch
                {
                    ({ } from, null, null) => ("from", from),
                    (null, { } only, null) => ("only", only),
                    (null, null, { } upTo) => ("upTo", upTo),
                    (null, null, null) => ("whole", (string?)null),
                    _ => throw new Client.GateChainException(422, "give one of --from, --only and --up-to", null, []),
                };
                var source = parsed.GetValue(Source) is { } file ? await File.ReadAllTextAsync(file, cancel) : null;
                var run = await client.TryAsync(
                    chain,
                    new(
                        source,
                        ServiceCommand.Pairs(parsed.GetValue(Param)),
                        parsed.GetValue(Profile),
                        part,
                        step,
                        parsed.GetValue(Known),
                        ServiceCommand.JsonPairs(parsed.GetValue(Given)),
                        parsed.GetValue(Pause)
                    ),
                    cancel
                );
                return await RunCommand.ShowAsync(
                    parsed,
                    client,
                    run,
                    $"run {run.Id} tries {(part == "whole" ? "" : $"a part of ")}{chain}",
                    cancel
                );
            },
            Chain,
            Source,
            Param,
            Profile,
            From,
            Only,
            UpTo,
            Known,
            Given,
            Pause,
            RunCommand.Follow
        );
}
