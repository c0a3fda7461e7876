using GateChain.Kinds.Contract;

namespace GateChain.Kinds.Remote;

/// <summary>Remembers in the step's folder where the job is that this piece of work has handed in.</summary>
sealed class JobTicket(AttemptContext context)
{
    readonly string _file = Path.Combine(context.StepFolder, "job");

    /// <summary>The job's address; null when none is under way, or it was that of other work.</summary>
    public Uri? Read()
    {
        if (!File.Exists(_file))
            return null;
        var lines = File.ReadAllLines(_file);
        return lines.Length == 2 && lines[0] == context.WorkKey.ToString() ? new(lines[1]) : null;
    }

    public void Write(Uri job)
    {
        Directory.CreateDirectory(context.StepFolder);
        var part = _file + ".part";
        using (var file = new FileStream(part, FileMode.Create, FileAccess.Write))
        {
            file.Write(System.Text.Encoding.UTF8.GetBytes($"{context.WorkKey}\n{job}"));
            file.Flush(flushToDisk: true);
        }
        File.Move(part, _file, overwrite: true);
    }

    public void Forget() => File.Delete(_file);
}
