using System.Globalization;
using System.Text;
using GateChain.Kinds.Contract;

namespace GateChain.Kinds.Files;

/// <summary>Makes folders and writes texts.</summary>
static class FileCreation
{
    /// <exception cref="StepFailedException">It leads outside.</exception>
    public static FileReport Folder(FilePlace place, FileSettings settings)
    {
        var path = place.Resolve(settings.Path);
        var report = new FileReport();
        report.Notes.Add(Directory.Exists(path) ? $"{path} is there already" : $"made {path}");
        Directory.CreateDirectory(path);
        return report;
    }

    /// <exception cref="StepFailedException">It leads outside, or is there already, or its text is missing.</exception>
    public static FileReport Text(FilePlace place, FileSettings settings, AttemptContext context)
    {
        var path = place.Resolve(settings.Path);
        var text = context.Read(settings.Text!)
            ?? throw new StepFailedException(
                "no-file",
                $"the attachment “{settings.Text!.File}” is missing",
                "Push the workspace with the file beside the chain."
            );
        if (!settings.Append && !settings.Overwrite && File.Exists(path))
        {
            throw new StepFailedException(
                "exists",
                $"{path} exists already",
                "Set overwrite: true to replace it, or append: true to write after what is there."
            );
        }
        var bytes = Encoding.UTF8.GetBytes(text);
        WholeFile.Write(path, file =>
        {
            if (settings.Append && File.Exists(path))
            {
                using var before = File.OpenRead(path);
                before.CopyTo(file, 1 << 16);
            }
            file.Write(bytes);
        });
        var report = new FileReport();
        report.Add(new(path));
        report.Notes.Add(
            string.Create(
                CultureInfo.InvariantCulture,
                $"{bytes.Length:N0} bytes {(settings.Append ? "put behind" : "written to")} {path}"
            )
        );
        return report;
    }
}
