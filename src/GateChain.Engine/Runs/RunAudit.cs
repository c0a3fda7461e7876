using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Core.Values;
using GateChain.Storage;

namespace GateChain.Engine.Runs;

/// <summary>The lines of the audit log for what people and programs decide about runs.</summary>
static class RunAudit
{
    const int MostCharacters = 300;

    /// <summary>
    /// The line for an input that the machine has taken; null when nobody asked for it: steps, calls and the service
    /// itself have the run's journal.
    /// </summary>
    /// <param name="input">The input.</param>
    /// <param name="run">The run.</param>
    /// <param name="chain">Its chain.</param>
    public static AuditLine? Of(RunInput input, long run, string chain)
    {
        AuditLine? Line(Actor by, string action, string? detail) =>
            by.Kind is ActorKind.Person or ActorKind.Token
                ? new(input.At, by, action, $"run {run}", Short($"{chain}{(detail is null ? "" : $": {detail}")}"))
                : null;
        return input switch
        {
            StartInput { Parent: null } start => Line(
                start.By,
                start.Try is null ? "start" : "try",
                start.RestartOf is { } before ? $"again, after run {before}" : null
            ),
            ResumeInput resume => Line(resume.By, "resume", DetailOf(resume)),
            StopInput stop => Line(stop.By, "stop", stop.Message),
            PauseInput pause => Line(pause.By, "pause", pause.Message),
            AnswerInput answer => Line(
                answer.By,
                "answer",
                $"{answer.Answer.ToString().ToLowerInvariant()} {answer.Step}"
                    + $"{(answer.Message is null ? "" : $": {answer.Message}")}"
            ),
            CancelInput cancel => Line(
                cancel.By,
                "cancel",
                $"{cancel.Step} as {cancel.As.Word()}{(cancel.Message is null ? "" : $": {cancel.Message}")}"
            ),
            HoldInput { Answer: HoldAnswer.Look } look => Line(look.By, "look now", look.Step),
            HoldInput hold => Line(
                hold.By,
                "let through",
                $"{hold.Step}{(hold.Message is null ? "" : $": {hold.Message}")}"
            ),
            ConfirmGoneInput gone => Line(gone.By, "confirm gone", gone.Step),
            _ => null,
        };
    }

    // Names only: values may be nobody's business.
    static string? DetailOf(ResumeInput resume)
    {
        List<string> parts = [];
        void Add(string what, IEnumerable<string> names)
        {
            if (names.Any())
                parts.Add($"{what} {string.Join(", ", names)}");
        }
        Add("from", resume.From);
        Add("skip", resume.Skip);
        Add("settle", resume.Settle.Keys);
        Add("set", resume.Params.Keys.Concat(resume.Vars.Keys));
        if (resume.Release is not null)
            parts.Add(resume.Number == 0 ? "follows the draft" : $"follows release {resume.Number}");
        return parts.Count == 0 ? null : string.Join("; ", parts);
    }

    static string Short(string text) => text.Length <= MostCharacters ? text : text[..(MostCharacters - 1)] + "…";
}
