using System.Text.Json;
using GateChain.Kinds.Contract;

namespace GateChain.Kinds.Load;

/// <summary>
/// That a load has a stage somewhere. It stands in the step's own folder for as long as the stage does, so that one
/// that no run needs is found.
/// </summary>
/// <param name="Run">The run.</param>
/// <param name="Step">The step's path in it.</param>
/// <param name="Work">The piece of work, as its mark in the database has it.</param>
/// <param name="Connection">Where the stage is.</param>
/// <param name="Stage">The stage's name there.</param>
public sealed record StageNote(long Run, string Step, string Work, string Connection, string Stage)
{
    const string Name = "stage.json";

    /// <summary>Where it stands; null for one that was not read from a file.</summary>
    internal string? Path { get; init; }

    /// <summary>The notes of a run, or of all runs; those that can't be read are left out.</summary>
    /// <param name="stepsFolder">The folder that holds a folder for each run.</param>
    /// <param name="run">The run; null for all.</param>
    public static IEnumerable<StageNote> All(string stepsFolder, long? run = null)
    {
        var folder = run is null
            ? stepsFolder
            : System.IO.Path.Combine(
                stepsFolder,
                run.Value.ToString(System.Globalization.CultureInfo.InvariantCulture)
            );
        if (!Directory.Exists(folder))
            yield break;
        foreach (var file in Directory.EnumerateFiles(folder, Name, SearchOption.AllDirectories))
        {
            if (Read(file) is { } note)
            {
                yield return note with
                {
                    Path = file,
                };
            }
        }
    }

    static StageNote? Read(string file)
    {
        try
        {
            return JsonSerializer.Deserialize<StageNote>(File.ReadAllText(file));
        }
        // A program of the step may have a file of that name.
        catch (Exception e) when (e is JsonException or IOException or UnauthorizedAccessException)
        {
            return null;
        }
    }

    /// <summary>Written before the stage is there.</summary>
    internal static void Write(AttemptContext context, string connection, string stage)
    {
        Directory.CreateDirectory(context.StepFolder);
        File.WriteAllText(
            System.IO.Path.Combine(context.StepFolder, Name),
            JsonSerializer.Serialize(
                new StageNote(context.Run, context.Step, context.WorkKey.ToString(), connection, stage)
            )
        );
    }

    /// <summary>Taken away when the stage is gone.</summary>
    internal static void Remove(AttemptContext context) => Remove(System.IO.Path.Combine(context.StepFolder, Name));

    /// <summary>The stage is gone.</summary>
    internal void Remove()
    {
        if (Path is not null)
            Remove(Path);
    }

    static void Remove(string file)
    {
        if (File.Exists(file))
            File.Delete(file);
    }
}
