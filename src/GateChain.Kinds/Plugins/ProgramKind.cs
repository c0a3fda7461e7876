using GateChain.Core.Chains.Kinds;
using GateChain.Core.Expressions;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Kinds.Command;
using GateChain.Kinds.Contract;

namespace GateChain.Kinds.Plugins;

/// <summary>
/// A kind that is a program: settings go in as JSON on its standard input, outputs come as JSON from its standard
/// output.
/// </summary>
/// <param name="description">What it is called, takes and gives.</param>
/// <param name="folder">The plug-in's folder.</param>
/// <param name="line">The program and its arguments; those that are files of the folder are taken from there.</param>
sealed class ProgramKind(KindDescription description, string folder, IReadOnlyList<string> line) : IStepKind
{
    const int MaxOutput = 16 << 20;

    readonly IReadOnlyList<string> _line =
    [
        .. line.Select(part => File.Exists(Path.Combine(folder, part)) ? Path.Combine(folder, part) : part),
    ];

    public KindDescription Description => description;

    public async ValueTask<AttemptResult> RunAsync(Value settings, AttemptContext context, CancellationToken cancel)
    {
        try
        {
            var end = await ProgramRun
                .RunAsync(
                    new(
                        _line,
                        context.WorkFolder,
                        new Dictionary<string, string>
                        {
                            ["GATECHAIN_FOLDER"] = folder,
                            ["GATECHAIN_WORK"] = context.WorkKey.ToString(),
                        },
                        ValueJson.ToText(settings),
                        MaxOutput,
                        null
                    ),
                    context,
                    cancel
                )
                .ConfigureAwait(false);
            if (end.ExitCode != 0)
                return AttemptResult.Fail("exit-code", end.Sentence, end.Detail);
            return end.Overflown
                ? AttemptResult.Fail("output", $"the program's output is larger than {MaxOutput >> 20} MiB")
                : Outputs(end.Output);
        }
        catch (StepFailedException e)
        {
            return e.Result;
        }
    }

    AttemptResult Outputs(string text)
    {
        if (description.Outputs.Count == 0 && text.Length == 0)
            return AttemptResult.Done();
        if (ValueJson.TryParse(text) is not { Kind: ValueKind.Map } given)
        {
            return AttemptResult.Fail(
                "output",
                "the program's output is not a JSON object",
                text.Length > 500 ? text[..500] : text
            );
        }
        var outputs = new List<(string, Value)>();
        foreach (var (name, type) in description.Outputs)
        {
            if (given.AsMap.Find(name) is not { } value)
                return AttemptResult.Fail("output", $"the program's output has no “{name}”");
            var (converted, problem) = Conversion.To(type, value);
            if (converted is null)
                return AttemptResult.Fail("output", $"the program's output “{name}”: {problem}");
            outputs.Add((name, converted.Value));
        }
        // What nobody declared nobody could use: it is a mistake of the program or of its kind.yaml.
        if (
            given
                .AsMap.Entries.Select(e => ValueText.ToPlainString(e.Key))
                .FirstOrDefault(n => !description.Outputs.ContainsKey(n)) is
            { } further
        )
        {
            return AttemptResult.Fail(
                "output",
                $"the program's output has “{further}”, which its kind does not declare"
            );
        }
        return AttemptResult.Done([.. outputs]);
    }

    public async ValueTask SweepAsync(AttemptContext lost) =>
        await Orphans.EndAsync(lost.StepFolder, ProgramRun.MarkOf(lost)).ConfigureAwait(false);
}
