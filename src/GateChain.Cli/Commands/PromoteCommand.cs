using System.CommandLine;
using GateChain.Cli.Terminal;
using GateChain.Client;
using GateChain.Engine.Basics;
using GateChain.Engine.Workspaces;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain promote CHAIN… --to URL</c></summary>
static class PromoteCommand
{
    static readonly Argument<string[]> Chains = new("CHAIN")
    {
        Description = "Chains; those that they call come too",
        Arity = ArgumentArity.OneOrMore,
    };

    static readonly Option<string> To = new("--to")
    {
        Description = "The address of the service that they are brought to",
        Required = true,
    };

    static readonly Option<bool> DryRun = new("--dry-run") { Description = "Compares, and stores nothing" };

    static readonly Option<string?> Note = new("--note", "-m") { Description = "What the releases there are for" };

    public static Command Create() =>
        ServiceCommand.Create(
            "promote",
            "Brings chains to another service with what they need; what belongs to that place stays",
            async (parsed, client, cancel) =>
            {
                using var there = ServiceCommand.ClientOf(parsed.GetValue(To), null);
                var (from, to) = (await client.ExportAsync(cancel), await there.ExportAsync(cancel));
                Promotion plan;
                try
                {
                    plan = Promotion.Of(from, to, parsed.GetValue(Chains)!, PluginFolder.Catalogue);
                }
                catch (RefusedException e)
                {
                    throw new GateChainException(404, e.Message, null, []);
                }
                // Checked, and pushed, beside all that is there: what is as it was makes no release.
                var whole = Merged(to, plan.Files);
                var problems = (await there.CheckAsync(whole, cancel)).Where(p => plan.Files.ContainsKey(p.File));
                var errors = problems.Where(p => p.Severity == "error").ToList();
                var missing = plan.Secrets.Except(await SetThereAsync(there, cancel)).ToList();
                var isDry = parsed.GetValue(DryRun);
                if (errors.Count == 0 && !isDry && plan.Files.Count > 0)
                {
                    // What somebody changes there meanwhile is not overwritten.
                    var known = to.ToDictionary(f => f.Key, f => Overwrites.HashOf(f.Value));
                    await there.PushAsync(whole, parsed.GetValue(Note) ?? "promoted", known, over: false, cancel);
                }
                if (parsed.GetValue(ServiceCommand.Json))
                {
                    ServiceCommand.WriteJson(
                        new
                        {
                            plan.Things,
                            Files = plan.Files.Keys,
                            plan.Secrets,
                            MissingSecrets = missing,
                            Problems = problems,
                        }
                    );
                }
                else
                {
                    Show(plan, missing, errors, problems, isDry, there.Address);
                }
                return errors.Count == 0 ? ExitCodes.Succeeded : ExitCodes.Usage;
            },
            Chains,
            To,
            DryRun,
            Note
        );

    static Dictionary<string, byte[]> Merged(
        IReadOnlyDictionary<string, byte[]> files,
        IReadOnlyDictionary<string, byte[]> changed
    ) => files.Where(f => !changed.ContainsKey(f.Key)).Concat(changed).ToDictionary(f => f.Key, f => f.Value);

    static async Task<IEnumerable<string>> SetThereAsync(GateChainClient there, CancellationToken cancel) =>
        (await there.SecretsAsync(cancel)).Where(s => s.IsSet).Select(s => s.Name);

    static void Show(
        Promotion plan,
        IReadOnlyList<string> missing,
        IReadOnlyList<ProblemInfo> errors,
        IEnumerable<ProblemInfo> problems,
        bool isDry,
        Uri there
    )
    {
        foreach (var thing in plan.Things)
        {
            var state = thing.State.ToString().ToLowerInvariant();
            Console.WriteLine($"{state, -8} {thing.What}{(thing.Note is null ? "" : $"  ({thing.Note})")}");
        }
        // Secrets are told below, with the service that lacks them.
        foreach (var problem in problems.Where(p => p.Severity != "hint" && p.Code != "GC1409"))
            ProblemLines.Write(problem, Console.Out);
        foreach (var secret in missing)
        {
            Console.WriteLine(
                $"the secret “{secret}” is not set there: gatechain secret set {secret} --service {there}"
            );
        }
        Console.WriteLine(
            errors.Count > 0 ? $"{Words.Count(errors.Count, "error")}: nothing was brought to {there}"
            : plan.Files.Count == 0 ? $"{there} has all of it already"
            : isDry ? $"{Words.Count(plan.Files.Count, "file")} would be brought to {there}"
            : $"{Words.Count(plan.Files.Count, "file")} brought to {there}; triggers and values there stayed"
        );
    }
}
