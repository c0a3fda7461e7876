using System.Reflection;

namespace GateChain.Core.Problems;

/// <summary>The catalogue of every kind of problem. <c>docs/problems.md</c> is checked against it.</summary>
public static class ProblemKinds
{
    public static readonly ProblemKind BadYaml = Error(
        "GC1001",
        "The file is not YAML",
        "Fix the place that is named; indentation and quotes are the usual causes."
    );
    public static readonly ProblemKind Alias = Error(
        "GC1002",
        "Anchors and aliases are not used",
        "Write the content out where it is used."
    );
    public static readonly ProblemKind DoubleKey = Error("GC1003", "A key stands twice", "Keep one of the two.");
    public static readonly ProblemKind UnknownKey = Error(
        "GC1004",
        "Unknown key",
        "Correct the name of the key, or remove it."
    );
    public static readonly ProblemKind MissingKey = Error("GC1005", "A required key is missing", "Add the key.");
    public static readonly ProblemKind WrongShape = Error(
        "GC1006",
        "A value has the wrong form",
        "Write a value of the form that is asked for."
    );
    public static readonly ProblemKind BadName = Error(
        "GC1007",
        "A name is not allowed",
        "Names begin with a letter and hold letters, digits and _ (chains also -)."
    );
    public static readonly ProblemKind TooMany = new(
        "GC1011",
        Severity.Hint,
        "There are more problems than are listed",
        "Fix those that are listed first."
    );
    public static readonly ProblemKind UnknownChoice = Error(
        "GC1009",
        "Not one of the choices",
        "Use one of the words that are named."
    );
    public static readonly ProblemKind TooBig = Error(
        "GC1010",
        "The file is too big",
        "A chain file has at most 4 MiB and 100 levels."
    );

    public static readonly ProblemKind UnknownKind = Error("GC1101", "Unknown kind of step", "Use a kind that exists.");
    public static readonly ProblemKind GateToNowhere = Error(
        "GC1102",
        "A gate leads to or from a step that is not there",
        "Name a step of the same scope."
    );
    public static readonly ProblemKind Cycle = Error(
        "GC1103",
        "Steps wait for each other in a circle",
        "Remove one of the gates; going back is what retry is for."
    );
    public static readonly ProblemKind BadBranch = Error(
        "GC1104",
        "A gate names a branch that is not there",
        "Name a branch of the decide step it leaves."
    );
    public static readonly ProblemKind BadJoin = Error(
        "GC1105",
        "A join that can't be satisfied",
        "Lower the number, or change the gates."
    );
    public static readonly ProblemKind Shadowed = Error(
        "GC1106",
        "A name hides one of an enclosing scope",
        "Give the step or variable a name of its own."
    );
    public static readonly ProblemKind NoSteps = Error("GC1107", "There are no steps", "Add at least one step.");
    public static readonly ProblemKind BadBranches = Error(
        "GC1108",
        "A decide step is incomplete",
        "Give it branches, each with when, the last one with otherwise: true if some branch must always be taken."
    );

    public static readonly ProblemKind BadElse = Error(
        "GC1109",
        "An else gate has a condition of its own",
        "An else gate opens when no condition of the gates beside it has: remove its condition, or else."
    );
    public static readonly ProblemKind LoneElse = new(
        "GC1110",
        Severity.Warning,
        "An else gate has no condition beside it",
        "Give another gate of the step a condition or a branch, or remove else."
    );

    public static readonly ProblemKind BadExpression = Error(
        "GC1201",
        "An expression can't be read",
        "Fix the expression; docs/expressions.md has the language."
    );
    public static readonly ProblemKind UnknownName = Error(
        "GC1202",
        "An expression is ill-typed or names something unknown",
        "Correct the name or convert the value."
    );
    public static readonly ProblemKind WrongType = Error(
        "GC1203",
        "An expression gives the wrong type",
        "Make it give the type that is asked for."
    );
    public static readonly ProblemKind NotUpstream = Error(
        "GC1204",
        "An expression reads a step that cannot have run yet",
        "Read a step that comes before, or add a gate."
    );
    public static readonly ProblemKind BadAssign = Error(
        "GC1205",
        "An assignment to something that is not a variable",
        "Assign to vars.<name>, declared under vars."
    );
    public static readonly ProblemKind WrongValue = Error(
        "GC1206",
        "A value does not fit its type",
        "Write a value of the declared type."
    );
    public static readonly ProblemKind UnknownType = Error(
        "GC1207",
        "Unknown type",
        "Use bool, int, double, string, timestamp, duration, list, map or any; list<string> for typed items."
    );

    public static readonly ProblemKind FailureUnseen = new(
        "GC1301",
        Severity.Hint,
        "Nothing handles a failure of this step",
        "Add a gate on failure, or ifFails: absorb."
    );
    public static readonly ProblemKind NeverRuns = new(
        "GC1302",
        Severity.Warning,
        "A step can never run",
        "Change or remove the gates that lead to it; no outcome of the steps before it lets it start."
    )
    {
        Means = ProblemMeaning.NeverRuns,
    };
    public static readonly ProblemKind DeadGate = new(
        "GC1303",
        Severity.Warning,
        "A gate can never open",
        "Change what it asks for, or remove it."
    );
    public static readonly ProblemKind SearchGivenUp = new(
        "GC1304",
        Severity.Hint,
        "The search over outcomes was given up",
        "Put parts of the scope into groups; what can never happen is searched for in each scope by itself."
    );
    public static readonly ProblemKind MayBeMissing = new(
        "GC1305",
        Severity.Warning,
        "An output may be missing where it is read",
        "Ask with has(…) first, read it with .? and orValue(…), or let the gate open on success only."
    );
    public static readonly ProblemKind UnknownConnection = Error(
        "GC1401",
        "Unknown connection",
        "Declare it in connections.yaml."
    );
    public static readonly ProblemKind WrongConnection = Error(
        "GC1410",
        "A connection of another type",
        "Name a connection of a type that the setting takes."
    );
    public static readonly ProblemKind MissingAttachment = Error(
        "GC1402",
        "An attachment is missing",
        "Put the file beside the chain."
    );

    public static readonly ProblemKind UnknownChain = Error(
        "GC1403",
        "Unknown chain",
        "Name a chain of the workspace."
    );
    public static readonly ProblemKind NotCallable = Error(
        "GC1412",
        "A chain that can't be called from here",
        "Let it say callable: [the folder of this chain], or move one of them."
    );
    public static readonly ProblemKind RetiredChain = new(
        "GC1411",
        Severity.Warning,
        "A retired chain",
        "Nothing starts it any more: bring it back, or name another one."
    );
    public static readonly ProblemKind UnknownLane = Error("GC1404", "Unknown lane", "Declare it in lanes.yaml.");
    public static readonly ProblemKind UnknownPlace = new(
        "GC1414",
        Severity.Warning,
        "No node has the label of a place",
        "Start one with it: gatechain serve --join … --label <label>."
    );
    public static readonly ProblemKind PlainSecret = new(
        "GC1405",
        Severity.Warning,
        "A secret stands in a file",
        "Write secret:<name> in its place, and set it with gatechain secret set."
    );

    public static readonly ProblemKind SecretUnset = new(
        "GC1409",
        Severity.Warning,
        "A secret is not set",
        "Set it with gatechain secret set, or on the console's page of connections."
    );
    public static readonly ProblemKind MisplacedSecret = Error(
        "GC1413",
        "A parameter that is a secret stands where none may",
        "Let it be a whole entry of headers or env, or hand it to a child's parameter that is a secret."
    );
    public static readonly ProblemKind UnknownProfileValue = Error(
        "GC1406",
        "No profile has the value",
        "Declare it in every profile of profiles.yaml."
    );
    public static readonly ProblemKind ProfileLacks = new(
        "GC1407",
        Severity.Warning,
        "A value is missing in a profile",
        "Declare it there too, or read it with has(profile.x) or profile.?x.orValue(…)."
    );
    public static readonly ProblemKind ProfilesDiffer = new(
        "GC1408",
        Severity.Warning,
        "A value has another type in another profile",
        "Write it in the same type everywhere."
    );

    public static readonly ProblemKind BadInput = Error(
        "GC1501",
        "A call does not give its child what that takes",
        "Give all parameters without a default, and values of their types."
    );
    public static readonly ProblemKind EndlessCall = Error(
        "GC1502",
        "A chain calls itself without end",
        "Put a decide step before the call, whose other branch ends it."
    );
    public static readonly ProblemKind BadHandler = Error(
        "GC1503",
        "A handler does what handlers can't",
        "Handlers neither pause nor stop the run they are told of."
    );
    public static readonly ProblemKind RedoWithoutRetry = new(
        "GC1504",
        Severity.Warning,
        "Expect asks for another attempt, and there is none",
        "Add retry with a limit."
    );

    public static readonly ProblemKind UnknownInTest = Error(
        "GC1801",
        "A test names what is not there",
        "Name a chain, step, gate, output, variable or profile that there is."
    );

    public static readonly ProblemKind BadSchedule = Error(
        "GC1601",
        "A schedule can't be read",
        "Say it in words (every, at, on), as cron, or as rrule."
    );
    public static readonly ProblemKind UnknownCalendar = Error(
        "GC1602",
        "Unknown calendar",
        "Declare it in calendars.yaml."
    );
    public static readonly ProblemKind EmptyCalendar = new(
        "GC1603",
        Severity.Warning,
        "A calendar has no days",
        "Say which days it has, or remove it."
    );
    public static readonly ProblemKind BadTriggerInput = Error(
        "GC1604",
        "A trigger does not give its chain what that takes",
        "Give all parameters without a default, and values of their types."
    );
    public static readonly ProblemKind OpenHook = Error(
        "GC1605",
        "Anybody could call a hook",
        "Give it a token or have calls signed, or write open: true."
    );
    public static readonly ProblemKind HookWithoutId = new(
        "GC1606",
        Severity.Hint,
        "A repeated call would start another run",
        "Have callers send webhook-id or Idempotency-Key, or CloudEvents; sign asks for it."
    );
    public static readonly ProblemKind TriggerCircle = new(
        "GC1607",
        Severity.Hint,
        "Triggers of outcomes form a circle",
        "Leave the chain out with \"!name\"; at run time such a fire is passed over."
    );
    public static readonly ProblemKind EventMayBeAbsent = new(
        "GC1608",
        Severity.Warning,
        "There is no event when a person starts the run",
        "Read it with event.?x.orValue(…), or hand it over as a parameter."
    );
    public static readonly ProblemKind KeptBesideOthers = new(
        "GC1609",
        Severity.Warning,
        "Runs side by side keep one value",
        "Let runs queue (whenBusy: queue), or do not keep it."
    );

    /// <summary>All kinds, by code.</summary>
    public static IReadOnlyList<ProblemKind> All { get; } =
    [
        .. typeof(ProblemKinds)
            .GetFields(BindingFlags.Public | BindingFlags.Static)
            .Select(f => (ProblemKind)f.GetValue(null)!)
            .OrderBy(k => k.Code, StringComparer.Ordinal),
    ];

    static ProblemKind Error(string code, string title, string help) => new(code, Severity.Error, title, help);
}
