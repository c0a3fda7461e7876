using System.CommandLine;
using System.Text.Json;
using GateChain.Cli.Terminal;
using GateChain.Client;
using Spectre.Console;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain triggers</c>, <c>trigger</c>, <c>fires</c> and <c>hold</c>.</summary>
static class TriggerCommands
{
    static readonly Option<string?> Chain = new("--chain") { Description = "Only triggers of this chain" };

    static readonly Argument<string> Name = new("TRIGGER") { Description = "The trigger's name" };

    static readonly Argument<string> Action = new Argument<string>("ACTION")
    {
        Description = "on, off, fire, or next",
    }.AcceptOnlyFromAmong("on", "off", "fire", "next");

    static readonly Option<bool> Missed = new("--missed")
    {
        Description = "With on: due times that passed while it was off are made up for, as its missed says",
    };

    static readonly Option<int> Count = new("--count")
    {
        Description = "With next: how many due times",
        DefaultValueFactory = _ => 5,
    };

    static readonly Option<string?> Event = new("--event")
    {
        Description = "With fire: what is taken to have happened, as JSON",
    };

    static readonly Option<long?> Again = new("--again") { Description = "With fire: the number of a fire to repeat" };

    static readonly Option<string?> OfTrigger = new("--trigger") { Description = "Only fires of this trigger" };

    static readonly Option<string?> Since = new("--since")
    {
        Description = "Only fires from then on: 2026-11-23, 2026-11-23T06:00Z, or 2h for the last two hours",
    };

    static readonly Option<bool> Refused = new("--refused") { Description = "Only fires that could not start a run" };

    static readonly Option<int> Limit = new("--limit", "-n")
    {
        Description = "At most so many",
        DefaultValueFactory = _ => 20,
    };

    static readonly Argument<string?> OnOff = new Argument<string?>("on|off")
    {
        Description = "on: nothing starts by itself; off: it does again; without it: tells where that holds",
        Arity = ArgumentArity.ZeroOrOne,
    }.AcceptOnlyFromAmong("on", "off");

    static readonly Option<string> Folder = new("--folder")
    {
        Description = "Only for triggers of this folder of the workspace, and below",
        DefaultValueFactory = _ => "",
    };

    static readonly Option<string?> Why = new("--why") { Description = "Why; shown to everybody" };

    public static Command Triggers() =>
        ServiceCommand.Create(
            "triggers",
            "Lists what starts chains by itself: on or off, when it fires next, and what became of the latest fire",
            async (parsed, client, cancel) =>
            {
                var triggers = await client.TriggersAsync(parsed.GetValue(Chain), cancel);
                if (parsed.GetValue(ServiceCommand.Json))
                {
                    ServiceCommand.WriteJson(triggers);
                    return ExitCodes.Succeeded;
                }
                if (triggers.Count == 0)
                {
                    Console.WriteLine("no triggers; declare them in triggers.yaml and push the workspace");
                    return ExitCodes.Succeeded;
                }
                var width = triggers.Max(t => t.Name.Length);
                foreach (var trigger in triggers)
                    Write(trigger, width);
                foreach (var held in triggers.Select(t => t.Held).OfType<string>().Distinct())
                    Console.WriteLine($"! nothing starts by itself: {Words.Plain(held)}");
                return ExitCodes.Succeeded;
            },
            Chain
        );

    static void Write(TriggerInfo trigger, int width)
    {
        void Line(string name, string word, string text) =>
            Console.WriteLine($"{name.PadRight(width)}  {word, -4}  {Words.Plain(text)}");
        Line(trigger.Name, State(trigger), $"starts {trigger.Chain} {trigger.Sentence}");
        if (trigger.On != trigger.FileSays)
            Line("", "", $"switched {(trigger.On ? "on" : "off")} by {trigger.SwitchedBy}; its file says otherwise");
        if (trigger.Next is { } next)
            Line("", "next", TriggerWords.Coming(next.At, trigger.Zone));
        if (trigger.Fires is [var last, ..])
            Line("", "last", $"{Words.At(last.At)}: {FireWords.Fate(last)}");
        foreach (var trouble in trigger.Troubles)
            Line("", "!", trouble);
    }

    static string State(TriggerInfo trigger) =>
        !trigger.On ? "off"
        : trigger.Held is null ? "on"
        : "held";

    public static Command Trigger() =>
        ServiceCommand.Create(
            "trigger",
            "Switches a trigger on or off, fires it by hand, or tells its next due times",
            async (parsed, client, cancel) =>
            {
                var (name, json) = (parsed.GetValue(Name)!, parsed.GetValue(ServiceCommand.Json));
                switch (parsed.GetValue(Action))
                {
                    case "next":
                        var next = await client.NextAsync(name, parsed.GetValue(Count), null, cancel);
                        if (json)
                        {
                            ServiceCommand.WriteJson(next);
                            return ExitCodes.Succeeded;
                        }
                        var zone = (await client.TriggersAsync(null, cancel)).First(t => t.Name == name).Zone;
                        foreach (var due in next)
                        {
                            var spread = due.At > due.Due ? $"  (due {FireWords.Local(due.Due, zone)})" : "";
                            Console.WriteLine($"{FireWords.Local(due.At, zone)}  {TriggerWords.From(due.At)}{spread}");
                        }
                        if (next.Count == 0)
                            Console.WriteLine($"{name} never fires again");
                        return ExitCodes.Succeeded;
                    case "fire":
                        return await FireAsync(name, parsed, client, cancel);
                    case var action:
                        await client.SwitchAsync(name, action == "on", parsed.GetValue(Missed), cancel);
                        if (json)
                        {
                            ServiceCommand.WriteJson(
                                (await client.TriggersAsync(null, cancel)).First(t => t.Name == name)
                            );
                        }
                        else
                        {
                            Console.WriteLine($"{name} is {action}");
                        }
                        return ExitCodes.Succeeded;
                }
            },
            Name,
            Action,
            Missed,
            Count,
            Event,
            Again
        );

    static async Task<int> FireAsync(string name, ParseResult parsed, GateChainClient client, CancellationToken cancel)
    {
        JsonElement? happened = null;
        if (parsed.GetValue(Event) is { } text)
        {
            try
            {
                using var document = JsonDocument.Parse(text);
                happened = document.RootElement.Clone();
            }
            catch (JsonException e)
            {
                throw new GateChainException(422, $"--event is no JSON: {e.Message}", null, []);
            }
        }
        var answer = await client.FireAsync(name, new(happened, parsed.GetValue(Again)), cancel);
        if (parsed.GetValue(ServiceCommand.Json))
        {
            ServiceCommand.WriteJson(answer);
        }
        else
        {
            Console.WriteLine(
                answer.Run is { } run ? $"run {run} was started" : $"{FireWords.Word(answer.Fate)}: {answer.Why}"
            );
        }
        return answer.Fate == "refused" ? ExitCodes.Usage : ExitCodes.Succeeded;
    }

    public static Command Fires() =>
        ServiceCommand.Create(
            "fires",
            "Lists occasions of triggers, newest first, and what became of each",
            async (parsed, client, cancel) =>
            {
                var fires = await client.FiresAsync(
                    parsed.GetValue(OfTrigger),
                    parsed.GetValue(Refused) ? "refused" : null,
                    TriggerWords.Moment(parsed.GetValue(Since), "--since"),
                    parsed.GetValue(Limit),
                    cancel
                );
                if (parsed.GetValue(ServiceCommand.Json))
                {
                    ServiceCommand.WriteJson(fires);
                    return ExitCodes.Succeeded;
                }
                if (fires.Count == 0)
                {
                    Console.WriteLine("no fires");
                    return ExitCodes.Succeeded;
                }
                var table = Tables.Create(
                    new("fire", IsNumber: true),
                    new("trigger"),
                    new("when"),
                    new("what", IsLong: true),
                    new("became of it", IsLong: true)
                );
                foreach (var fire in fires)
                {
                    table.AddRow(
                        new Text(fire.Number.ToString()),
                        new Text(fire.Trigger),
                        new Text(Words.At(fire.At)),
                        Tables.Cell(FireWords.Happened(fire.Event)),
                        Tables.Cell(FireWords.Fate(fire))
                    );
                }
                Tables.Write(table);
                return ExitCodes.Succeeded;
            },
            OfTrigger,
            Since,
            Refused,
            Limit
        );

    public static Command Hold() =>
        ServiceCommand.Create(
            "hold",
            "Holds all triggers, or releases them",
            async (parsed, client, cancel) =>
            {
                if (parsed.GetValue(OnOff) is { } said)
                {
                    await client.HoldAsync(new(said == "on", parsed.GetValue(Folder)!, parsed.GetValue(Why)), cancel);
                }
                var holds = await client.HoldsAsync(cancel);
                if (parsed.GetValue(ServiceCommand.Json))
                {
                    ServiceCommand.WriteJson(holds);
                    return ExitCodes.Succeeded;
                }
                foreach (var hold in holds)
                {
                    Console.WriteLine(
                        $"nothing starts by itself{(hold.Folder.Length == 0 ? "" : $" in {hold.Folder}/")}: "
                            + $"held by {hold.By} since {Words.At(hold.Since)}"
                            + $"{(hold.Why is null ? "" : $": {Words.Plain(hold.Why)}")}"
                    );
                }
                if (holds.Count == 0)
                    Console.WriteLine("nothing is held: triggers that are on start their chains");
                return ExitCodes.Succeeded;
            },
            OnOff,
            Folder,
            Why
        );
}
