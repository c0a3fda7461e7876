using GateChain.Core.Chains.Kinds;
using GateChain.Core.Expressions;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Kinds.Connections;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Command;

/// <summary>Runs a program.</summary>
public sealed class CommandKind : StepKind<CommandSettings>
{
    const int MostOutput = 16 << 20;

    public override KindDescription Description => Described;

    /// <summary>What the core knows of it; there without an instance.</summary>
    public static KindDescription Described { get; } =
        new(
            "command",
            "Runs a program or a script and takes its output.",
            SettingsShape.Of<CommandSettings>(),
            new Dictionary<string, CelType> { ["exit_code"] = CelType.Int, ["value"] = CelType.Dyn }
        )
        {
            OneOf = (["run", "shell", "script"], true),
            Tells = "{script|run|shell}",
            Sample = new Dictionary<string, Value> { ["exit_code"] = Value.Int(0), ["value"] = Value.String("") },
        };

    protected override async ValueTask<AttemptResult> RunAsync(
        CommandSettings settings,
        AttemptContext context,
        CancellationToken cancel
    )
    {
        if (
            new[] { settings.Run.Count > 0, settings.Shell is not null, settings.Script is not null }.Count(given =>
                given
            ) != 1
        )
        {
            return AttemptResult.Fail("setting", "a command step needs one of “run”, “shell” and “script”");
        }
        if (settings.Input is not null && settings.Json.Kind != ValueKind.Null)
            return AttemptResult.Fail("setting", "standard input is either “input” or “json”");
        try
        {
            var own = ScriptFolder.Fill(settings, context);
            var env = settings.Env.ToDictionary(e => e.Key, e => context.WithSecret("env", e.Key, e.Value));
            if (own is not null)
                env["GATECHAIN_FOLDER"] = own;
            IReadOnlyList<string> line = settings switch
            {
                { Shell: { } shell } => ["/bin/sh", "-c", shell],
                { Script: { } script } =>
                [
                    .. ScriptFolder.Interpreter(script, settings.Interpreter),
                    Path.Combine(own!, script),
                    .. settings.Args,
                ],
                _ => settings.Run,
            };
            var most = settings.Output == CommandOutput.None ? 0 : Math.Clamp(settings.MaxOutput, 1, MostOutput);
            var call = new ProgramCall(
                line,
                Path.GetFullPath(settings.Folder ?? ".", context.WorkFolder),
                env,
                settings.Json.Kind == ValueKind.Null ? settings.Input : ValueJson.ToText(settings.Json),
                most,
                settings.MaxMemory * 1024L * 1024
            );
            return Result(settings, await ProgramRun.RunAsync(call, context, cancel).ConfigureAwait(false));
        }
        catch (StepFailedException e)
        {
            return e.Result;
        }
        catch (MissingSecretException e)
        {
            return AttemptResult.Fail("no-secret", e.Message, $"Set it: gatechain secret set {e.Name}");
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return AttemptResult.Fail("file", e.Message);
        }
    }

    static AttemptResult Result(CommandSettings settings, ProgramEnd end)
    {
        var code = ("exit_code", Value.Int(end.ExitCode));
        if (end.TooMuchMemory is { } bytes)
        {
            return new(
                Value.Map(code),
                new(
                    "memory",
                    $"the program used {bytes >> 20} MiB of memory, and maxMemory is {settings.MaxMemory}"
                        + "; it was ended with all it had started"
                )
            );
        }
        var warned = settings.Warning.Contains(end.ExitCode);
        if (!warned && !settings.Success.Contains(end.ExitCode))
            return new(Value.Map(code), new("exit-code", end.Sentence, end.Detail));
        if (end.Overflown)
        {
            return new(
                Value.Map(code),
                new(
                    "output",
                    $"the program's output is larger than {settings.MaxOutput} bytes",
                    "Take less, raise maxOutput, or set output: none and write to a file."
                )
            );
        }
        var value = settings.Output switch
        {
            CommandOutput.Text => Value.String(WithoutLastEnd(end.Output)),
            CommandOutput.Lines => end.Output.Length == 0
                ? Value.EmptyList
                : Value.List([.. WithoutLastEnd(end.Output).Split('\n').Select(Value.String)]),
            CommandOutput.Json => ValueJson.TryParse(end.Output),
            _ => Value.Null,
        };
        return value is null
            ? new(
                Value.Map(code),
                new(
                    "output",
                    "the program's output is not JSON",
                    end.Output.Length > 500 ? end.Output[..500] : end.Output
                )
            )
            : new(Value.Map(code, ("value", value.Value)), null, warned ? [$"exit code {end.ExitCode}"] : null);
    }

    public override async ValueTask SweepAsync(AttemptContext lost)
    {
        if (await Orphans.EndAsync(lost.StepFolder, ProgramRun.MarkOf(lost)).ConfigureAwait(false))
            lost.Log.Note("the program of the lost attempt was still running and has been ended");
    }

    // The end of the last line is no line; empty ones before it are.
    static string WithoutLastEnd(string output) =>
        output.EndsWith("\r\n", StringComparison.Ordinal) ? output[..^2]
        : output.EndsWith('\n') ? output[..^1]
        : output;
}
