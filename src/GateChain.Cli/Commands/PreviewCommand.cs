using System.CommandLine;
using System.Text.Json;
using GateChain.Cli.Terminal;
using GateChain.Kinds.Contract;
using GateChain.Kinds.Load.Looking;
using Spectre.Console;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain preview</c></summary>
static class PreviewCommand
{
    static readonly Argument<string> Source = new("FILE") { Description = "The file" };
    static readonly Option<string?> As = new("--as")
    {
        Description = "What it is: csv, fixed, jsonl, json, xml, parquet or xlsx; found when absent",
    };
    static readonly Option<bool> Json = new("--json") { Description = "As JSON" };

    static readonly JsonSerializerOptions Shape = new(JsonSerializerDefaults.Web)
    {
        WriteIndented = true,
        Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    public static Command Create()
    {
        var command = new Command("preview", "Tells what a file of data is like, and the settings that load it")
        {
            Source,
            As,
            Json,
        };
        command.SetAction((parsed, cancel) => Task.FromResult(Run(parsed, cancel)));
        return command;
    }

    static int Run(ParseResult parsed, CancellationToken cancel)
    {
        var name = parsed.GetValue(Source)!;
        FileLook look;
        try
        {
            look = FileLook.At(name, Path.GetFullPath(name), parsed.GetValue(As), cancel);
        }
        catch (StepFailedException e)
        {
            Console.Error.WriteLine($"{e.Message}{(e.Error.Detail is { } detail ? $"\n{detail}" : "")}");
            return ExitCodes.Usage;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            Console.Error.WriteLine(e.Message);
            return ExitCodes.Usage;
        }
        if (parsed.GetValue(Json))
            Console.WriteLine(JsonSerializer.Serialize(look, Shape));
        else
            Write(look);
        return ExitCodes.Succeeded;
    }

    static void Write(FileLook look)
    {
        foreach (var sentence in look.Found)
            Console.WriteLine(sentence);
        var sample = look.Sample;
        Console.WriteLine($"{sample.Seen:N0} rows{(sample.IsAll ? "" : " looked at; there are more")}");
        Console.WriteLine();
        var columns = Tables.Create(
            new("column"),
            new("type"),
            new("empty", IsNumber: true),
            new("for example", IsLong: true)
        );
        foreach (var column in look.Header)
        {
            columns.AddRow(
                Tables.Cell(column.Name),
                Tables.Cell($"{column.Type ?? "text"}{(column.Format is { } format ? $" {format}" : "")}"),
                Tables.Cell(column.Empty == 0 ? "" : $"{column.Empty:N0}"),
                Tables.Cell(string.Join(" · ", column.Examples))
            );
        }
        Tables.Write(columns);
        if (sample.Rejected > 0)
        {
            Console.WriteLine();
            Console.WriteLine($"{sample.Rejected:N0} of them would be rejected:");
            foreach (var reject in sample.Rejects)
                Console.WriteLine($"  {reject.Line}: {Words.Plain(reject.Reason)}");
        }
        Console.WriteLine();
        Console.WriteLine("from:");
        foreach (var line in look.From.Split('\n'))
            Console.WriteLine($"  {line}");
        Console.WriteLine("columns:");
        foreach (var line in look.Columns.Split('\n'))
            Console.WriteLine($"  {line}");
    }
}
