using GateChain.Core.Expressions;
using GateChain.Core.Values;

namespace GateChain.Core.Chains.Kinds;

/// <summary>The kinds whose work is control flow itself: the run machine does it.</summary>
public static class ControlKinds
{
    public const string Assign = "assign",
        Decide = "decide",
        Wait = "wait",
        Group = "group",
        Each = "each",
        Repeat = "repeat",
        Call = "call",
        Stop = "stop";

    public static IReadOnlyList<KindDescription> All { get; } =
    [
        Kind(Assign, "Sets variables.", [], []),
        Kind(Decide, "Takes the first of its branches that holds.", [], [("branch", CelType.String)]) with
        {
            StepKeys = ["branches"],
        },
        Kind(
            Wait,
            "Lets time pass, or waits until other runs have ended.",
            [
                new("for", new(SettingForm.Duration), false, null, "How long to wait, for example `10m`."),
                new(
                    "until",
                    new(SettingForm.Timestamp),
                    false,
                    null,
                    "The moment to wait for; one that has passed does not wait."
                ),
                new(
                    "runs",
                    new(SettingForm.List) { Item = new(SettingForm.Int) },
                    false,
                    null,
                    "The numbers of runs to wait for, as `call` steps with `wait: false` give them."
                ),
                new(
                    "need",
                    new(SettingForm.Choice) { Choices = ["all", "any"] },
                    false,
                    Value.String("all"),
                    "Whether all of the runs must have ended, or the first one does."
                ),
            ],
            [
                (
                    "outcomes",
                    CelType.List(
                        CelType.Record(
                            ("run", CelType.Int),
                            ("chain", CelType.String),
                            ("outcome", CelType.String),
                            ("error", CelType.String),
                            ("outputs", CelType.Map(CelType.String, CelType.Dyn))
                        )
                    )
                ),
                ("succeeded", CelType.Int),
                ("failed", CelType.Int),
            ]
        ) with
        {
            OneOf = (["for", "until", "runs"], false),
        },
        Kind(Group, "Holds steps and runs them once.", [], []) with
        {
            StepKeys = ["steps", "gates", "vars", "defaults", "resumeAs"],
        },
        Kind(
            Each,
            "Holds steps and runs them once for each item of a list.",
            [],
            [
                ("collected", CelType.List(CelType.Dyn)),
                ("count", CelType.Int),
                ("succeeded", CelType.Int),
                ("failed", CelType.Int),
            ]
        ) with
        {
            StepKeys =
            [
                "over",
                "parallel",
                "tolerate",
                "collect",
                "as",
                "steps",
                "gates",
                "vars",
                "defaults",
                "resumeAs",
            ],
        },
        Kind(
            Repeat,
            "Holds steps and runs them round after round, until a condition holds.",
            [],
            [("rounds", CelType.Int), ("at_limit", CelType.Bool)]
        ) with
        {
            StepKeys =
            [
                "until",
                "while",
                "limit",
                "pause",
                "atLimit",
                "as",
                "steps",
                "gates",
                "vars",
                "defaults",
                "resumeAs",
            ],
        },
        Kind(Call, "Runs another chain and gives its outputs.", [], [("run", CelType.Int)]) with
        {
            StepKeys = ["chain", "inputs", "wait", "release", "resumeAs"],
        },
        Kind(
            Stop,
            "Ends the whole run early.",
            [
                new(
                    "outcome",
                    new(SettingForm.Choice) { Choices = ["stopped", "succeeded", "failed"] },
                    false,
                    Value.String("stopped"),
                    "What the run ends as. `succeeded` ends it green and quietly: "
                        + "what has not begun is skipped, outputs are computed, handlers for success run. "
                        + "`failed` counts as a failure."
                ),
                new("message", SettingShape.Text, false, null, "Why the run is stopped; shown with the run."),
            ],
            []
        ),
    ];

    static KindDescription Kind(
        string name,
        string doc,
        SettingMember[] settings,
        (string Name, CelType Type)[] outputs
    ) =>
        new(name, doc, SettingShape.Record(settings), outputs.ToDictionary(o => o.Name, o => o.Type))
        {
            IsControl = true,
            Purpose = name switch
            {
                Decide or Group or Each or Repeat => KindPurpose.Ways,
                Call => KindPurpose.Work,
                _ => KindPurpose.Run,
            },
            Sample = outputs.ToDictionary(
                o => o.Name,
                o =>
                    o.Type.Name switch
                    {
                        "int" => Value.Int(0),
                        "string" => Value.String(""),
                        "bool" => Value.False,
                        _ => Value.EmptyList,
                    }
            ),
        };
}
