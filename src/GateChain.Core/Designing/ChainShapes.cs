using GateChain.Core.Chains.Kinds;
using GateChain.Core.Values;

namespace GateChain.Core.Designing;

/// <summary>
/// The shape of a chain file outside of what kinds add: JSON Schema, forms and completion are made from it, and a test
/// holds it to the reader.
/// </summary>
public static class ChainShapes
{
    static readonly SettingShape Text = SettingShape.Text,
        Flag = new(SettingForm.Bool),
        Lane = SettingShape.Text with { Refers = SettingReference.Lane },
        Int = new(SettingForm.Int),
        Double = new(SettingForm.Double),
        Duration = new(SettingForm.Duration),
        Expression = new(SettingForm.Expression),
        Any = new(SettingForm.Any);

    static SettingShape Choice(params string[] words) => new(SettingForm.Choice) { Choices = words };

    static SettingShape List(SettingShape item) => new(SettingForm.List) { Item = item };

    static SettingShape Map(SettingShape item) => new(SettingForm.Map) { Item = item };

    static SettingMember Key(
        string name,
        SettingShape shape,
        string doc,
        bool required = false,
        Value? absent = null
    ) => new(name, shape, required, absent, doc);

    static SettingMember Word(string name, string doc, params string[] words) =>
        new(name, Choice(words), false, Value.String(words[0]), doc);

    static readonly SettingMember[] Hold =
    [
        Key("recheck", Duration, "For hold: how long until it looks again, for example `5m`."),
        Key("at", Text, "For hold: the time of day at which it looks again, for example `\"06:00\"`."),
        Key(
            "zone",
            Text,
            "For hold with `at`: the time zone, for example `Europe/London`.",
            absent: Value.String("UTC")
        ),
        Key("limit", Any, "For hold: how many further looks there are (`12`), or how long it is held at most (`2h`)."),
        new(
            "then",
            Choice("fail", "skip", "proceed", "stop"),
            false,
            Value.String("fail"),
            "For hold: what happens at the limit."
        ),
    ];

    static readonly SettingMember GuardVerdict = Key(
        "verdict",
        Choice("proceed", "skip", "fail", "stop", "hold"),
        "What happens to the step.",
        required: true
    );

    static readonly SettingMember Message = Key("message", Text, "Said when the rule decides; may hold `${…}`.");

    /// <summary>The keys of a guard's rule.</summary>
    public static SettingShape GuardRule { get; } =
        SettingShape.Record([
            Key("when", Expression, "What must hold; sees `probes`.", required: true),
            GuardVerdict,
            Message,
            .. Hold,
        ]);

    /// <summary>The keys of what a guard does when no rule holds.</summary>
    public static SettingShape Otherwise { get; } = SettingShape.Record([GuardVerdict, Message, .. Hold]);

    public static SettingShape Guard { get; } =
        SettingShape.Record(
            Key(
                "probes",
                Map(new(SettingForm.Record) { Name = "probe" }),
                "What is looked at; rules call it `probes.<name>`."
            ),
            Key("rules", List(GuardRule), "The first rule that holds decides."),
            Key("otherwise", Otherwise, "What happens when no rule holds.", required: true)
        );

    public static SettingShape ExpectRule { get; } =
        SettingShape.Record(
            Key("when", Expression, "What must hold; sees `result`.", required: true),
            Key("verdict", Choice("accept", "redo", "fail", "warn"), "What becomes of the result.", required: true),
            Message
        );

    public static SettingShape Retry { get; } =
        SettingShape.Record(
            Key("limit", Int, "Further attempts after the first, 0 to 1000.", absent: Value.Int(1)),
            Key("wait", Duration, "Before the first further attempt.", absent: Value.String("0s")),
            Key("factor", Double, "What the wait grows by each time, 1 to 100.", absent: Value.Double(1)),
            Key("max", Duration, "The longest wait."),
            Key("jitter", Double, "The share of the wait that varies by chance, 0 to 1.", absent: Value.Double(0)),
            Key("when", Expression, "Sees `error`, and says whether another attempt makes sense.")
        );

    /// <summary>What a chain or a container says for the working steps in it.</summary>
    public static SettingShape Defaults { get; } =
        SettingShape.Record(
            Key("retry", Retry, "Further attempts when a step fails; `none` for none."),
            Key("timeout", Duration, "The longest that one attempt may take; `none` for no limit."),
            Key(
                "onCrash",
                Choice("redo", "pause", "fail", "none"),
                "What happens to an attempt that a crash of the service cut off."
            ),
            Key("onResume", Choice("keep", "redo", "none"), "Whether a resume keeps a success or does it again."),
            Key("lane", Lane, "The lane that attempts queue for; `none` for none."),
            Key("place", Text, "The label of the nodes that do attempts; `none` for wherever the run is.")
        );

    static readonly SettingMember Notes = Key("notes", Text, "For whoever reads the chain.");

    static readonly SettingMember Quiet = Key(
        "quiet",
        Map(Text),
        "Hints that are put to rest here: the reason, by the hint's code."
    );

    public static SettingShape Branch { get; } =
        SettingShape.Record(
            Key("name", Text, "What gates call the branch.", required: true),
            Key("when", Expression, "What must hold."),
            Key("otherwise", Flag, "Taken when no other branch holds.", absent: Value.False)
        );

    /// <summary>The keys of every step, beside those of its kind.</summary>
    public static SettingShape Step { get; } =
        SettingShape.Record(
            Key("kind", Text, "What the step does.", required: true),
            Key("title", Text, "What people call it; the id when absent."),
            Notes,
            Quiet,
            Key(
                "join",
                Choice("all", "any", "some") with
                {
                    OrNumber = true,
                },
                "Which of its gates must open: all, any one as soon as it does, "
                    + "some once all are decided, or a number of them.",
                absent: Value.String("all")
            ),
            Key("guard", Guard, "Checks on its threshold, before it may start."),
            Key("retry", Retry, "Further attempts when it fails."),
            Key("timeout", Duration, "The longest that one attempt may take."),
            Key("expect", List(ExpectRule), "Checks on its result after it worked; the first rule that holds decides."),
            Word(
                "ifFails",
                "What a failure for good means: the run fails, it is dealt with and does not count, "
                    + "or the run pauses for a person.",
                "fail",
                "absorb",
                "pause"
            ),
            Word("onCrash", "What happens to an attempt that a crash of the service cut off.", "redo", "pause", "fail"),
            Key("crashLimit", Int, "How many attempts may be lost to crashes, 0 to 1000.", absent: Value.Int(3)),
            Word("onResume", "Whether a resume keeps its success or does it again.", "keep", "redo"),
            Key("lane", Lane, "The lane its attempts queue for."),
            Key("place", Text, "The label of the nodes that do its attempts; wherever the run is when absent."),
            Key("disabled", Flag, "Does not run and counts as succeeded, without outputs.", absent: Value.False),
            Key("set", new(SettingForm.Record) { Name = "settings" }, "The settings of its kind."),
            Key("assign", Map(Expression), "Variables it changes after it succeeded: `vars.x: expression`.")
        );

    /// <summary>The keys that only some kinds have, named in their descriptions.</summary>
    public static IReadOnlyDictionary<string, SettingMember> OfKinds { get; } =
        new SettingMember[]
        {
            Key("branches", List(Branch), "The first branch that holds is taken."),
            Key("over", Expression, "Gives the list it goes through.", required: true),
            Key("parallel", Int, "Iterations in flight at once, 1 to 1000.", absent: Value.Int(1)),
            Key(
                "tolerate",
                Any,
                "How many iterations may fail: a number, or a share such as `10%`.",
                absent: Value.Int(0)
            ),
            Key("collect", Expression, "Gives one value for each iteration that succeeded."),
            Key("until", Expression, "Ends the rounds when it holds; looked at after each."),
            Key("while", Expression, "Lets a round begin while it holds; looked at before each."),
            Key("limit", Int, "The most rounds, 1 to 1,000,000.", required: true),
            Key("pause", Duration, "Between two rounds.", absent: Value.String("0s")),
            Word("atLimit", "What reaching the limit means.", "fail", "accept"),
            Key(
                "chain",
                SettingShape.Text with
                {
                    Refers = SettingReference.Chain,
                },
                "The chain it runs.",
                required: true
            ),
            Key("inputs", Map(Expression), "Values for the chain's parameters."),
            Key("wait", Flag, "Whether it waits for the other run to end.", absent: Value.True),
            Key(
                "release",
                Choice("latest") with
                {
                    OrNumber = true,
                },
                "Which release of the chain it runs: the latest one when it starts, or the one of a number.",
                absent: Value.String("latest")
            ),
            Key("steps", Map(new(SettingForm.Record) { Name = "step" }), "The steps inside, by id."),
            Key("gates", List(new(SettingForm.Record) { Name = "gate" }), "The gates between the steps inside."),
            Key("vars", Map(new(SettingForm.Record) { Name = "variable" }), "Values that the steps inside change."),
            Key(
                "as",
                Text,
                "A name for what the loop goes through: `depot` lets all scopes inside read `depot.item` "
                    + "and `depot.index`, in a repeat `depot.round`."
            ),
            Key(
                "defaults",
                Defaults,
                "What working steps in it have that do not say it themselves; the nearest one wins, "
                    + "a step's own word wins over all."
            ),
            Word("resumeAs", "Whether a resume continues inside, or runs all of it again.", "part", "whole"),
        }.ToDictionary(m => m.Name);

    public static SettingShape Gate { get; } =
        SettingShape.Record(
            Key("from", Text, "The step it leaves from.", required: true),
            Key("to", Text, "The step it leads to.", required: true),
            Key(
                "on",
                Choice("success", "failure", "completion", "skipped", "always"),
                "After which outcomes it opens; several in a list.",
                absent: Value.String("success")
            ),
            Key("when", Expression, "What must hold too."),
            Word("match", "Whether outcome and condition must both hold, or either.", "both", "either"),
            Key("branch", Text, "The branch of the decide step it leaves from."),
            Key("else", Flag, "Opens when no gate with a condition that leaves the same step has opened.")
        );

    public static SettingShape Variable { get; } =
        SettingShape.Record(
            Key(
                "type",
                Text,
                "bool, int, double, string, timestamp, duration, list, map or any; list<string> for typed items.",
                required: true
            ),
            Key("initial", Any, "Its value when its scope begins."),
            Key(
                "keep",
                new(SettingForm.Bool),
                "Of the chain's own: its value at the end of a succeeded run is the initial one of the next.",
                absent: Value.False
            )
        );

    public static SettingShape Parameter { get; } =
        SettingShape.Record(
            Key(
                "type",
                Text,
                "bool, int, double, string, timestamp, duration, list, map or any; list<string> for typed items.",
                required: true
            ),
            Key("label", Text, "What people are asked for."),
            Key("default", Any, "What holds when nothing is given; without one it must be given."),
            Key("secret", Flag, "Whether it is given as the name of a secret, secret:NAME; its type is string then.")
        );

    static readonly SettingShape Handler = SettingShape.Record(
        OfKinds["steps"],
        OfKinds["gates"],
        OfKinds["vars"],
        OfKinds["defaults"]
    );

    /// <summary>The keys of the file.</summary>
    public static SettingShape Chain { get; } =
        SettingShape.Record(
            Key("chain", Text, "The name: letters, digits and -; one of its kind in the service.", required: true),
            Key("title", Text, "What people call it."),
            Notes,
            Quiet,
            Key(
                "params",
                Map(new(SettingForm.Record) { Name = "parameter" }),
                "Values that the starter of a run gives."
            ),
            OfKinds["vars"],
            OfKinds["defaults"],
            Key("lane", Lane, "The lane that all its working steps queue for."),
            Key("place", Text, "The label of the nodes that do the attempts of all its working steps."),
            Key(
                "callable",
                List(Text),
                "Further folders from which it may be called, beside its own and those below; / for all."
            ),
            Word(
                "whenBusy",
                "What happens to a run that is started while another one of the chain is going.",
                "allow",
                "queue",
                "skip",
                "replace"
            ),
            Key("busyKey", Expression, "What a run is busy for, over params: others of the same are in its way."),
            Key("queueLimit", Int, "How many runs may wait in one queue, 1 to 1000000; more are refused."),
            Word("onFailure", "Whether branches that do not depend on a failed step continue.", "finish", "halt"),
            Key("dueIn", Duration, "How long after its start a run is late."),
            Key(
                "recover",
                SettingShape.Record(
                    Key(
                        "attempts",
                        Int,
                        "How often a failed run is resumed automatically, 1 to 1000.",
                        absent: Value.Int(1)
                    ),
                    Key("wait", Duration, "How long after its end.", absent: Value.String("0s"))
                ),
                "How a failed run is resumed automatically."
            ),
            OfKinds["steps"],
            OfKinds["gates"],
            Key(
                "handlers",
                SettingShape.Record([
                    .. ((string[])["success", "failure", "end", "pause", "late", "endangered"]).Select(o =>
                        Key(o, Handler, $"Steps that run on {o}.")
                    ),
                ]),
                "Steps that run on an occasion."
            ),
            Key("outputs", Map(Expression), "What the chain gives to whoever calls it."),
            Key("layout", Map(List(Double)), "Places on the canvas; laid out automatically when absent.")
        );
}
