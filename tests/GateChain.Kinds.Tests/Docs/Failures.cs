using System.Text;
using GateChain.Kinds.Tests.Command;
using GateChain.Kinds.Tests.Files;
using GateChain.Kinds.Tests.Load;
using GateChain.Kinds.Tests.Plugins;
using GateChain.Kinds.Tests.Sql;
using GateChain.Kinds.Tests.Web;

namespace GateChain.Kinds.Tests.Docs;

/// <summary>What can go wrong with each kind, and the test that shows it.</summary>
static partial class Failures
{
    const string Nothing = "nothing",
        Again = "does it again",
        Whole = "nothing; the target is as it was";

    static readonly (string Kind, string What, string Code, string Done, string Resume, string Test)[] Rows =
    [
        (
            "command",
            "there is no such program, folder or attachment",
            "`no-program`, `no-folder`, `no-file`",
            Nothing,
            Again,
            nameof(CommandTests.SaysWhatWentWrong)
        ),
        (
            "command",
            "it ends with another exit code",
            "`exit-code`, with its last error line",
            "what the program did",
            "runs it again",
            nameof(CommandTests.SaysWhatWentWrong)
        ),
        (
            "command",
            "it uses too much memory, or gives too much or no JSON",
            "`memory`, `output`",
            "what the program did",
            "runs it again",
            nameof(CommandTests.SaysWhatWentWrong)
        ),
        (
            "command",
            "timeout or stop",
            "`timeout`, `stopped`",
            "what the program did; it is ended with all that it started",
            "runs it again",
            nameof(CommandTests.NothingThatItStartedIsLeftOver)
        ),
        (
            "command",
            "the service is killed meanwhile",
            "the attempt is lost",
            "what the program did; it is ended before the next attempt",
            "as `onCrash` says",
            nameof(CommandTests.AnOrphanOfALostAttemptIsEndedBeforeTheWorkIsDoneAgain)
        ),
        (
            "sql",
            "the server can't be reached",
            "`unreachable`",
            Nothing,
            Again,
            nameof(DatabaseTests.AServerThatIsNotThereIsTold)
        ),
        (
            "sql",
            "wrong password, or none is set",
            "`login`, `no-secret`",
            Nothing,
            Again,
            nameof(DatabaseTests.AWrongPasswordIsTold)
        ),
        (
            "sql",
            "a table or column is missing, or the statement is wrong",
            "`no-table`, `sql`, with its place",
            Nothing,
            Again,
            nameof(DatabaseTests.AMissingTableIsTold)
        ),
        (
            "sql",
            "timeout or stop",
            "`timeout`, `stopped`; the server is told",
            Nothing,
            Again,
            nameof(DatabaseTests.StoppingReachesTheServer)
        ),
        (
            "sql",
            "the service is killed between its commit there and the journal here",
            "the attempt is lost",
            "all of it",
            "with `once: true` sees the mark and takes the outputs; else does it again",
            nameof(DatabaseTests.WorkThatIsMarkedIsDoneOnce)
        ),
        (
            "file",
            "no file matches, the target is there already",
            "`no-file`, `exists`",
            Nothing,
            Again,
            nameof(FileTests.SaysWhatWentWrongAndTouchesNothing)
        ),
        (
            "file",
            "a path, a link or a name in an archive leads out of the allowed folders",
            "`outside`",
            Nothing,
            Again,
            nameof(FileTests.NothingLeadsOutOfTheAllowedFolders)
        ),
        (
            "file",
            "an archive holds too much",
            "`size`",
            Nothing,
            Again,
            nameof(FileTests.WhatWasPackedComesBackAsItWas)
        ),
        (
            "file",
            "the disk is full",
            "`full`",
            "files before it",
            "does all again; needs `overwrite: true` for those",
            nameof(BadInputTests.AFullDiskIsToldAndLeavesTheTargetAsItWas)
        ),
        (
            "http",
            "the server can't be reached, the certificate is not good",
            "`unreachable`, `tls`",
            Nothing,
            Again,
            nameof(WebTests.AServerThatIsNotThereIsTold)
        ),
        (
            "http",
            "another status than expected; an answer that is no JSON, or is too large",
            "`status`, `answer`, `size`, with the answer's beginning",
            "what the server did",
            "asks again; a request that changes something bears the same `Idempotency-Key`",
            nameof(WebTests.WhatGoesWrongIsTold)
        ),
        (
            "http",
            "429 or 503 with Retry-After",
            "waits, twice at most, then `status`",
            Nothing,
            Again,
            nameof(WebTests.AServerThatAsksForPatienceIsGivenIt)
        ),
        (
            "http",
            "the address is redirected to another server",
            "`address`",
            "nothing there; who asks is not said to it",
            "after the connection is corrected",
            nameof(WebTests.RedirectionsAreFollowedWithinTheServerOnly)
        ),
        (
            "remote",
            "the service forgets the job",
            "`lost`",
            Nothing,
            "hands it in again",
            nameof(WebTests.ALostJobIsToldAndHandedInAgain)
        ),
        (
            "remote",
            "the service here is killed meanwhile",
            "the attempt is lost",
            "the job continues",
            "follows the same job",
            nameof(WebTests.AfterACrashTheJobUnderWayIsFollowed)
        ),
        (
            "remote",
            "timeout or stop",
            "`timeout`, `stopped`",
            "the job is cancelled there",
            "hands it in again",
            nameof(WebTests.StoppingCancelsTheJob)
        ),
        (
            "notify",
            "a recipient is refused, a file is missing",
            "`recipient`, `no-file`",
            "nothing is sent to anybody",
            "sends",
            nameof(WebTests.AMessageThatCanNotBeSentIsTold)
        ),
        (
            "notify",
            "an expression of a template fails",
            "`template`",
            "nothing is sent",
            "sends",
            nameof(WebTests.ATemplateSeesWhatIsBoundAndHtmlIsEscaped)
        ),
        (
            "kinds of one's own",
            "the program gives no JSON, or other outputs than it declares",
            "`output`",
            "what the program did",
            "runs it again",
            nameof(PluginTests.AProgramThatGivesSomethingElseFails)
        ),
        .. DataRows,
    ];

    public static string Table()
    {
        var text = new StringBuilder(
            "\n| kind | what goes wrong | what is told | what was done so far | what a resume does | "
                + "test |\n| --- | --- | --- | --- | --- | --- |\n"
        );
        foreach (var (kind, what, code, done, resume, test) in Rows)
            text.Append($"| {kind} | {what} | {code} | {done} | {resume} | `{test}` |\n");
        return text.ToString();
    }
}
