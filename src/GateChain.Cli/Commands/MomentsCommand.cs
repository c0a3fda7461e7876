using System.CommandLine;
using GateChain.Cli.Terminal;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain moments RUN</c></summary>
static class MomentsCommand
{
    static readonly Option<long> After = new("--after") { Description = "Only decisions behind this one" };
    static readonly Option<int> Limit = new("--limit", "-n")
    {
        Description = "At most so many, 1 to 1,000",
        DefaultValueFactory = _ => 200,
    };

    public static Command Create() =>
        ServiceCommand.Create(
            "moments",
            "Lists the decisions of a run in order; gatechain show RUN --moment N shows it as it was behind one",
            async (parsed, client, cancel) =>
            {
                var found = await client.MomentsAsync(
                    parsed.GetValue(ServiceCommand.Run),
                    parsed.GetValue(After),
                    parsed.GetValue(Limit),
                    cancel
                );
                if (parsed.GetValue(ServiceCommand.Json))
                {
                    ServiceCommand.WriteJson(found);
                    return ExitCodes.Succeeded;
                }
                foreach (var moment in found)
                {
                    foreach (var (i, line) in moment.Lines.Index())
                    {
                        var head =
                            i == 0 ? $"{moment.Seq, 6}  {moment.At.UtcDateTime:HH:mm:ss.fff}" : new string(' ', 20);
                        var path = line.Path.Length == 0 ? "the run" : line.Path;
                        Console.WriteLine($"{head}  {path}  {Words.Plain(line.Text)}");
                    }
                }
                if (found.Count == parsed.GetValue(Limit))
                    Console.WriteLine($"        there may be more: --after {found[^1].Seq}");
                return ExitCodes.Succeeded;
            },
            ServiceCommand.Run,
            After,
            Limit
        );
}
