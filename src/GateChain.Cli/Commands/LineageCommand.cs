using System.CommandLine;
using GateChain.Cli.Terminal;
using GateChain.Client;
using Spectre.Console;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain lineage [NAME]</c></summary>
static class LineageCommand
{
    static readonly Argument<string?> Name = new("NAME")
    {
        Description = "A table, file or address, `connection:name`, or a pattern; all of them when absent",
        Arity = ArgumentArity.ZeroOrOne,
    };
    static readonly Option<long?> Run = new("--run") { Description = "What a run has read and written, as it had it" };

    public static Command Create() =>
        ServiceCommand.Create(
            "lineage",
            "Tells which data chains read and write: what feeds a table, what is behind when a file does not come",
            async (parsed, client, cancel) =>
            {
                var json = parsed.GetValue(ServiceCommand.Json);
                if (parsed.GetValue(Run) is { } run)
                    Show(await client.DataOfRunAsync(run, cancel), json, OfRun);
                else if (parsed.GetValue(Name) is not { } name)
                    Show(await client.DataAsync(cancel), json, List);
                else
                    return Tell(await client.LineageAsync(name, cancel), name, json);
                return ExitCodes.Succeeded;
            },
            Name,
            Run
        );

    static void Show<T>(IReadOnlyList<T> what, bool json, Action<IReadOnlyList<T>> write)
    {
        if (json)
            ServiceCommand.WriteJson(what);
        else if (what.Count == 0)
            Console.WriteLine("no step tells of data that it reads or writes");
        else
            write(what);
    }

    static void List(IReadOnlyList<DatasetUsesInfo> all)
    {
        var table = Tables.Create(
            new("data", IsLong: true),
            new("is"),
            new("written by", IsLong: true),
            new("read by", IsLong: true)
        );
        foreach (var one in all)
        {
            table.AddRow(
                Tables.Cell(one.Data.ToString()),
                Tables.Cell(one.Data.Form),
                Tables.Cell(Chains(one.Writers)),
                Tables.Cell(Chains(one.Readers))
            );
        }
        Tables.Write(table);
    }

    static string Chains(IEnumerable<DataStepInfo> steps) => string.Join(", ", steps.Select(s => s.Chain).Distinct());

    static void OfRun(IReadOnlyList<StepDataInfo> data)
    {
        var table = Tables.Create(new("step"), new(""), new("data", IsLong: true), new("is"));
        foreach (var one in data)
        {
            table.AddRow(
                Tables.Cell(one.Step),
                Tables.Cell(one.Direction),
                Tables.Cell(one.Data.ToString()),
                Tables.Cell(one.Data.Form)
            );
        }
        Tables.Write(table);
    }

    static int Tell(IReadOnlyList<LineageInfo> found, string name, bool json)
    {
        if (json)
            ServiceCommand.WriteJson(found);
        else if (found.Count == 0)
            Console.Error.WriteLine($"no chain reads or writes “{name}”; gatechain lineage lists what they do");
        foreach (var one in json ? [] : found)
        {
            Console.WriteLine($"{one.Uses.Data}  ({one.Uses.Data.Form})");
            Steps("written by", one.Uses.Writers);
            Steps("read by", one.Uses.Readers);
            Flows("comes from", one.Before, f => f.From);
            Flows("goes into", one.After, f => f.To);
        }
        return found.Count == 0 ? ExitCodes.Failed : ExitCodes.Succeeded;
    }

    static void Steps(string title, IReadOnlyList<DataStepInfo> steps)
    {
        foreach (var (i, step) in steps.Index())
            Console.WriteLine($"  {(i == 0 ? title : ""), -10}  {step.Chain}, step {step.Step}");
    }

    static void Flows(string title, IReadOnlyList<DataFlowInfo> flows, Func<DataFlowInfo, DatasetInfo> far)
    {
        foreach (var (i, flow) in flows.Index())
        {
            var room = new string(' ', 2 * (flow.Steps - 1));
            Console.WriteLine(
                $"  {(i == 0 ? title : ""), -10}  {room}{far(flow)}, by {flow.Through.Chain}, step {flow.Through.Step}"
            );
        }
    }
}
