using System.ComponentModel;
using System.Diagnostics;
using System.Text;
using GateChain.Core.Chains.Kinds;
using GateChain.Core.Expressions;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Settings;

namespace GateChain.Kinds.Command;

/// <summary>Runs a program.</summary>
public sealed class CommandKind : StepKind<CommandSettings>
{
    const int MaxOutput = 1 << 20;
    const int MaxLine = 64 * 1024;

    public override KindDescription Description => Described;

    /// <summary>What the core knows of it; there without an instance.</summary>
    public static KindDescription Described { get; } = new("command", "Runs a program and takes its output.", SettingsShape.Of<CommandSettings>(),
        new Dictionary<string, CelType> { ["exit_code"] = CelType.Int, ["value"] = CelType.Dyn })
    {
        Sample = new Dictionary<string, Value> { ["exit_code"] = Value.Int(0), ["value"] = Value.String("") },
    };

    protected override async ValueTask<AttemptResult> RunAsync(CommandSettings settings, AttemptContext context, CancellationToken cancel)
    {
        if (settings.Run.Count == 0 == settings.Shell is null) { return AttemptResult.Fail("setting", "a command step needs either “run” or “shell”"); }
        IReadOnlyList<string> line = settings.Shell is null ? settings.Run : ["/bin/sh", "-c", settings.Shell];
        var folder = context.Resolve(settings.Folder ?? ".");
        if (!Directory.Exists(folder)) { return AttemptResult.Fail("no-folder", $"the folder {folder} is not there"); }
        if (FindProgram(line[0], folder) is not { } program)
        {
            return AttemptResult.Fail("no-program", $"there is no program “{line[0]}”", $"Looked in {(line[0].Contains('/') ? folder : "PATH: " + Environment.GetEnvironmentVariable("PATH"))}");
        }
        var output = new CappedText(settings.Output == CommandOutput.None ? 0 : MaxOutput);
        var lastErrors = new Queue<string>();
        int exitCode;
        try
        {
            using var process = Start(program, line, settings, folder);
            Orphans.Remember(context.StepFolder, process);
            using (cancel.Register(() => ProcessGroup.Kill(process.Id)))
            {
                var reading = Task.WhenAll(
                    ReadLines(process.StandardOutput, text => { context.Log.Out(Shown(text)); output.Add(text); }),
                    ReadLines(process.StandardError, text =>
                    {
                        text = Shown(text);
                        context.Log.Err(text);
                        lock (lastErrors) { lastErrors.Enqueue(text); if (lastErrors.Count > 10) { lastErrors.Dequeue(); } }
                    }));
                await WriteInput(process, settings.Input).ConfigureAwait(false);
                await process.WaitForExitAsync(CancellationToken.None).ConfigureAwait(false);
                // Children that it left behind must not hold the step by holding its output open.
                if (await Task.WhenAny(reading, Task.Delay(TimeSpan.FromSeconds(2), context.Time, CancellationToken.None)).ConfigureAwait(false) != reading)
                {
                    context.Log.Note("the program ended, but something it started keeps its output open; what comes now is lost");
                }
            }
            exitCode = process.ExitCode;
            Orphans.Forget(context.StepFolder);
        }
        catch (Exception e) when (e is Win32Exception or IOException or UnauthorizedAccessException)
        {
            return AttemptResult.Fail("start", $"{program} can't be started: {e.Message}");
        }
        if (cancel.IsCancellationRequested) { return AttemptResult.Fail("stopped", "the program was ended early"); }
        return Result(settings, exitCode, output, lastErrors);
    }

    static Process Start(string program, IReadOnlyList<string> line, CommandSettings settings, string folder)
    {
        var start = new ProcessStartInfo
        {
            WorkingDirectory = folder, RedirectStandardInput = true, RedirectStandardOutput = true, RedirectStandardError = true,
            StandardOutputEncoding = Encoding.UTF8, StandardErrorEncoding = Encoding.UTF8, StandardInputEncoding = new UTF8Encoding(false),
        };
        // A session of its own makes a process group of its own, so that all of it can be ended together.
        var own = ProcessGroup.Leader;
        start.FileName = own ?? program;
        if (own is not null) { start.ArgumentList.Add(program); }
        foreach (var argument in line.Skip(1)) { start.ArgumentList.Add(argument); }
        foreach (var (name, value) in settings.Env) { start.Environment[name] = value; }
        return Process.Start(start)!;
    }

    static string? FindProgram(string name, string folder)
    {
        if (name.Contains('/')) { return Path.GetFullPath(name, folder) is var path && File.Exists(path) ? path : null; }
        return (Environment.GetEnvironmentVariable("PATH") ?? "").Split(':').Select(p => Path.Combine(p, name)).FirstOrDefault(File.Exists);
    }

    static async Task WriteInput(Process process, string? input)
    {
        try
        {
            if (input is not null) { await process.StandardInput.WriteAsync(input).ConfigureAwait(false); }
            process.StandardInput.Close();
        }
        catch (IOException)
        {
            // It ended without reading all of its input; that is its right.
        }
    }

    // What the log shows of a line; the output keeps it whole.
    static string Shown(string line) => line.Length > MaxLine ? line[..MaxLine] + " … (line cut)" : line;

    static async Task ReadLines(StreamReader reader, Action<string> take)
    {
        try
        {
            // By hand rather than line by line: a program that never ends its line must not fill the memory.
            var buffer = new char[8192];
            var line = new StringBuilder();
            int read;
            while ((read = await reader.ReadAsync(buffer).ConfigureAwait(false)) > 0)
            {
                for (var i = 0; i < read; i++)
                {
                    if (buffer[i] != '\n')
                    {
                        if (line.Length <= MaxOutput) { line.Append(buffer[i]); }
                        continue;
                    }
                    if (line.Length > 0 && line[^1] == '\r') { line.Length--; }
                    take(line.ToString());
                    line.Clear();
                }
            }
            if (line.Length > 0) { take(line.ToString()); }
        }
        catch (Exception e) when (e is IOException or ObjectDisposedException)
        {
            // The pipe broke with the process.
        }
    }

    static AttemptResult Result(CommandSettings settings, int exitCode, CappedText output, Queue<string> lastErrors)
    {
        var code = ("exit_code", Value.Int(exitCode));
        var warned = settings.Warning.Contains(exitCode);
        if (!warned && !settings.Success.Contains(exitCode))
        {
            string detail;
            lock (lastErrors) { detail = string.Join('\n', lastErrors); }
            var signal = exitCode > 128 ? $" (signal {exitCode - 128})" : "";
            return new(Value.Map(code), new("exit-code", $"the program ended with exit code {exitCode}{signal}{(detail.Length > 0 ? ": " + detail.Split('\n')[^1] : "")}", detail.Length > 0 ? detail : null));
        }
        if (output.Overflown) { return new(Value.Map(code), new("output", "the program's output is larger than 1 MiB; take less, or set output: none and write to a file")); }
        var text = output.ToString();
        var value = settings.Output switch
        {
            CommandOutput.Text => Value.String(text.TrimEnd('\n')),
            CommandOutput.Lines => Value.List([.. text.Split('\n', StringSplitOptions.RemoveEmptyEntries).Select(Value.String)]),
            CommandOutput.Json => ValueJson.TryParse(text),
            _ => Value.Null,
        };
        return value is null ? new(Value.Map(code), new("output", "the program's output is not JSON", text.Length > 500 ? text[..500] : text))
            : new(Value.Map(code, ("value", value.Value)), null, warned ? [$"exit code {exitCode}"] : null);
    }

    public override ValueTask SweepAsync(AttemptContext lost)
    {
        if (Orphans.Kill(lost.StepFolder)) { lost.Log.Note("the program of the lost attempt was still running and has been ended"); }
        return ValueTask.CompletedTask;
    }

    sealed class CappedText(int limit)
    {
        readonly StringBuilder _text = new();

        public bool Overflown { get; private set; }

        public void Add(string line)
        {
            if (limit == 0) { return; }
            if (_text.Length + line.Length > limit) { Overflown = true; }
            else { _text.Append(line).Append('\n'); }
        }

        public override string ToString() => _text.ToString();
    }
}
