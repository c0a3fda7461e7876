using System.CommandLine;
using GateChain.Cli.Terminal;
using GateChain.Client;
using GateChain.Core.Chains;
using GateChain.Core.Designing;
using GateChain.Core.Problems;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain rename FILE OLD NEW</c>: offline.</summary>
static class RenameCommand
{
    static readonly Argument<string> Source = new("FILE") { Description = "A chain file" };
    static readonly Argument<string> Old = new("OLD")
    {
        Description = "The name, with the containers it is in: depots/load",
    };
    static readonly Argument<string> New = new("NEW") { Description = "The name it gets" };
    static readonly Option<Renamed> What = new("--what")
    {
        Description = "What it is: step, variable, parameter, or branch (OLD is STEP/BRANCH then)",
        DefaultValueFactory = _ => Renamed.Step,
    };
    static readonly Option<bool> Write = new("--write")
    {
        Description = "Change the file; without, only show what would be changed",
    };

    public static Command Create()
    {
        var command = new Command(
            "rename",
            "Renames a step, variable, parameter or branch with everything that refers to it; comments and texts stay"
        )
        {
            Source,
            Old,
            New,
            What,
            Write,
        };
        command.SetAction(parsed =>
        {
            var (file, old) = (parsed.GetValue(Source)!, parsed.GetValue(Old)!);
            var text = File.ReadAllText(file);
            var problems = new ProblemList(file, text);
            if (ChainReader.Read(text, PluginFolder.Catalogue, problems) is not { } chain)
                throw new GateChainException(422, $"{file} can't be read; see: gatechain check {file}", null, []);
            var path = new StepPath(old);
            var (places, refusal) = ChainRename.Plan(
                chain,
                text,
                parsed.GetValue(What),
                path.Scope.Text,
                path.Last,
                parsed.GetValue(New)!
            );
            if (refusal is not null)
                throw new GateChainException(422, refusal, null, []);
            foreach (var place in places)
                Console.WriteLine($"{file}:{place.Line}: {place.What}");
            if (parsed.GetValue(Write))
            {
                File.WriteAllText(
                    file,
                    places
                        .Reverse()
                        .Aggregate(text, (t, p) =>
                            t[..p.Edit.Start] + p.Edit.Text + t[(p.Edit.Start + p.Edit.Length)..]
                        )
                );
            }
            Console.WriteLine(
                $"{Words.Count(places.Count, "place")} "
                    + $"{(parsed.GetValue(Write) ? "changed" : "would be changed; --write changes the file")}"
            );
            return ExitCodes.Succeeded;
        });
        return command;
    }
}
