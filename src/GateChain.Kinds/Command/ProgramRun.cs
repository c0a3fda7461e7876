using System.ComponentModel;
using System.Diagnostics;
using System.Text;
using GateChain.Core.Running.State;
using GateChain.Kinds.Contract;

namespace GateChain.Kinds.Command;

/// <summary>Runs a program to its end, and everything it started with it.</summary>
static class ProgramRun
{
    const int MaxLine = 64 * 1024;

    /// <summary>Runs it. Its lines go to the log as they come.</summary>
    /// <exception cref="StepFailedException">It can't be started, or was ended early.</exception>
    public static async Task<ProgramEnd> RunAsync(ProgramCall call, AttemptContext context, CancellationToken cancel)
    {
        // The run's own folder is there for whoever names it.
        var own = $"runs/{context.Run}";
        if (
            call
                .Line.Concat(call.Env.Values)
                .Append(call.Input ?? "")
                .Append(call.Folder)
                .Any(t => t.Contains(own, StringComparison.Ordinal))
        )
        {
            var folder = Path.Combine(context.WorkFolder, own);
            if (!Directory.Exists(folder))
            {
                Directory.CreateDirectory(folder);
                context.ProgramsAs?.Own(folder);
            }
        }
        if (!Directory.Exists(call.Folder))
            throw new StepFailedException("no-folder", $"the folder {call.Folder} is not there");
        var name = call.Line[0];
        var program = Find(name, call.Folder)
            ?? throw new StepFailedException(
                "no-program",
                $"there is no program “{name}”",
                "Looked in "
                    + $"{(name.Contains('/') ? call.Folder : "PATH: " + Environment.GetEnvironmentVariable("PATH"))}"
            );
        var output = new CappedText(call.MaxOutput);
        var lastErrors = new Queue<string>();
        try
        {
            await AnnounceAsync(context, cancel).ConfigureAwait(false);
            using var process = Start(program, call, context);
            // Closed here, not whenever the collector comes by.
            using var standardOutput = process.StandardOutput;
            using var standardError = process.StandardError;
            try
            {
                Orphans.Remember(context.StepFolder, process);
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException)
            {
                // Nobody could end it after a crash: it must not continue.
                ProcessGroup.KillAll(process.Id, MarkOf(context));
                throw;
            }
            using var memory = call.MaxMemory is { } most ? new MemoryWatch(process.Id, most, context.Time) : null;
            using (cancel.Register(() => ProcessGroup.KillAll(process.Id, MarkOf(context))))
            {
                var reading = Task.WhenAll(ReadLines(standardOutput, call.MaxOutput, text =>
                    {
                        context.Log.Out(Shown(text));
                        output.Add(text);
                    }), ReadLines(standardError, MaxLine, text =>
                    {
                        text = Shown(text);
                        context.Log.Err(text);
                        lock (lastErrors)
                        {
                            lastErrors.Enqueue(text);
                            if (lastErrors.Count > 10)
                                lastErrors.Dequeue();
                        }
                    }));
                await WriteInput(process, call.Input).ConfigureAwait(false);
                await process.WaitForExitAsync(CancellationToken.None).ConfigureAwait(false);
                // What it left behind goes with it: nothing of it must hold the output open, or meet the next attempt.
                if (ProcessGroup.Kill(process.Id))
                    context.Log.Note("the program ended and left processes running; they were ended too");
                if (
                    await Task.WhenAny(
                            reading,
                            Task.Delay(TimeSpan.FromSeconds(2), context.Time, CancellationToken.None)
                        )
                        .ConfigureAwait(false) != reading
                )
                {
                    context.Log.Note(
                        "the program ended, but something it started keeps its output open; what comes now is lost"
                    );
                }
            }
            Orphans.Forget(context.StepFolder);
            if (cancel.IsCancellationRequested)
                throw new StepFailedException("stopped", "the program was ended early");
            lock (lastErrors)
            {
                return new(process.ExitCode, output.ToString(), output.Overflown, [.. lastErrors], memory?.Exceeded);
            }
        }
        catch (Exception e) when (e is Win32Exception or IOException or UnauthorizedAccessException)
        {
            throw new StepFailedException("start", $"{program} can't be started: {e.Message}");
        }
    }

    // On a full disk nothing is started, as nothing of the run is decided: it waits until it can be written down.
    static async Task AnnounceAsync(AttemptContext context, CancellationToken cancel)
    {
        var told = false;
        while (true)
        {
            try
            {
                Orphans.Announce(context.StepFolder);
                return;
            }
            catch (IOException e)
            {
                if (!told)
                {
                    context.Log.Note(
                        $"the program is not started before it can be written down that it is: {e.Message}"
                    );
                }
                told = true;
            }
            try
            {
                await Task.Delay(TimeSpan.FromSeconds(1), context.Time, cancel).ConfigureAwait(false);
            }
            catch (OperationCanceledException)
            {
                throw new StepFailedException("stopped", "ended before the program was started");
            }
        }
    }

    /// <summary>What marks every process of an attempt, also those that left its process group.</summary>
    public static string MarkOf(AttemptContext context) =>
        $"GATECHAIN_ATTEMPT={context.Run}/{context.Step}/{context.WorkKey}";

    static Process Start(string program, ProgramCall call, AttemptContext context)
    {
        var start = new ProcessStartInfo
        {
            WorkingDirectory = call.Folder,
            RedirectStandardInput = true,
            RedirectStandardOutput = true,
            RedirectStandardError = true,
            StandardOutputEncoding = Encoding.UTF8,
            StandardErrorEncoding = Encoding.UTF8,
            StandardInputEncoding = new UTF8Encoding(false),
        };
        // A session of its own makes a process group of its own, so that all of it can be ended together.
        List<string> line = [.. context.ProgramsAs?.Line ?? [], program, .. call.Line.Skip(1)];
        if (ProcessGroup.Leader is { } own)
            line.Insert(0, own);
        start.FileName = line[0];
        foreach (var argument in line.Skip(1))
            start.ArgumentList.Add(argument);
        // What else the service was started with is none of the program's business.
        if (context.PassedVariables is { } passed)
        {
            foreach (var other in start.Environment.Keys.Except(passed).ToList())
                start.Environment.Remove(other);
        }
        start.Environment.Remove("GATECHAIN_SECRET_KEY");
        foreach (var (variable, value) in context.ProgramsAs?.Variables ?? [])
            start.Environment[variable] = value;
        if (context.Trace is { } trace)
            start.Environment[TraceContext.Header.ToUpperInvariant()] = trace;
        foreach (var (variable, value) in call.Env)
            start.Environment[variable] = value;
        if (context.Node is { } node)
            start.Environment[ProgramGuard.Variable] = node;
        var mark = MarkOf(context).Split('=', 2);
        start.Environment[mark[0]] = mark[1];
        return Process.Start(start)!;
    }

    static string? Find(string name, string folder)
    {
        if (name.Contains('/'))
        {
            return Path.GetFullPath(name, folder) is var path && File.Exists(path) ? path : null;
        }
        return (Environment.GetEnvironmentVariable("PATH") ?? "")
            .Split(':')
            .Select(p => Path.Combine(p, name))
            .FirstOrDefault(File.Exists);
    }

    static async Task WriteInput(Process process, string? input)
    {
        try
        {
            if (input is not null)
                await process.StandardInput.WriteAsync(input).ConfigureAwait(false);
            process.StandardInput.Close();
        }
        catch (IOException)
        {
            // It ended without reading all of its input; that is its right.
        }
    }

    // What the log shows of a line; the output keeps it whole.
    static string Shown(string line) => line.Length > MaxLine ? line[..MaxLine] + " … (line cut)" : line;

    static async Task ReadLines(StreamReader reader, int longest, Action<string> take)
    {
        try
        {
            // By hand rather than line by line: a program that never ends its line must not fill the memory.
            longest = Math.Max(longest, MaxLine);
            var buffer = new char[8192];
            var line = new StringBuilder();
            int read;
            while ((read = await reader.ReadAsync(buffer).ConfigureAwait(false)) > 0)
            {
                for (var i = 0; i < read; i++)
                {
                    if (buffer[i] != '\n')
                    {
                        if (line.Length <= longest)
                            line.Append(buffer[i]);
                        continue;
                    }
                    if (line.Length > 0 && line[^1] == '\r')
                        line.Length--;
                    take(line.ToString());
                    line.Clear();
                }
            }
            if (line.Length > 0)
                take(line.ToString());
        }
        catch (Exception e) when (e is IOException or ObjectDisposedException)
        {
            // The pipe broke with the process.
        }
    }

    sealed class CappedText(int limit)
    {
        readonly StringBuilder _text = new();
        int _bytes;

        public bool Overflown { get; private set; }

        public void Add(string line)
        {
            if (limit == 0 || Overflown)
                return;
            _bytes += Encoding.UTF8.GetByteCount(line) + 1;
            if (_bytes > limit)
                Overflown = true;
            else
                _text.Append(line).Append('\n');
        }

        public override string ToString() => _text.ToString();
    }
}
