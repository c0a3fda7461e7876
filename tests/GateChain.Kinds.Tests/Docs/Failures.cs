using System.Text;
using GateChain.Kinds.Tests.Check;
using GateChain.Kinds.Tests.Command;
using GateChain.Kinds.Tests.Files;
using GateChain.Kinds.Tests.Load;
using GateChain.Kinds.Tests.Plugins;
using GateChain.Kinds.Tests.Sql;
using GateChain.Kinds.Tests.Transfer;
using GateChain.Kinds.Tests.Web;

namespace GateChain.Kinds.Tests.Docs;

/// <summary>What can go wrong with each kind, and the test that shows it.</summary>
static class Failures
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
            "load",
            "file, table or column is missing",
            "`no-file`, `no-table`, `header`, `columns`, with the nearest name",
            Whole,
            Again,
            nameof(LoadTests.SaysWhatIsMissing)
        ),
        (
            "load",
            "values do not fit, up to the limit",
            "warning: none; they are in the reject file with line, column, value and reason",
            "all other rows",
            "",
            nameof(LoadTests.RejectedLinesAreWrittenOutWithTheirReason)
        ),
        (
            "load",
            "more rows than the limit do not fit, though it be row 1,000,000",
            "`rejects`, with the first line and its reason",
            Whole,
            "reads the file, fixed or with a higher limit, from its start",
            nameof(BadInputTests.AWrongTypeInTheLastOfManyRowsIsTold)
        ),
        (
            "load",
            "the database refuses rows: too long, out of range, a key that is there, a rule, a trigger",
            "like values that do not fit: a batch is halved down to the rows that are to blame",
            "all other rows, or none beyond the limit",
            "reads the file from its start",
            nameof(RefusedRowTests.JustTheRowsThatAreRefusedAreRejects)
        ),
        (
            "load",
            "lines can't be read: broken quotes, no JSON, not UTF-8",
            "like values that do not fit, with the line",
            "all other rows, or none beyond the limit",
            "reads the file from its start",
            nameof(FidelityTests.ACsvLineThatIsBrokenIsARejectAndReadingGoesOn)
        ),
        (
            "load",
            "a packed file is damaged, or was cut off",
            "`packed`",
            "nothing; the target is as it was",
            "reads the file, sent again, from its start",
            nameof(AwkwardFilesTests.WhatIsPackedIsReadOnTheWay)
        ),
        (
            "load",
            "files of a pattern have other columns than the first",
            "`header`, with what is missing and what is more",
            "nothing; the target is as it was",
            "does it again",
            nameof(AwkwardFilesTests.SeveralFilesAreOneSourceAndEachRowKnowsItsOwn)
        ),
        (
            "load",
            "`mirror`, or `history` with `gone: close`: the source has no rows, or more are gone than `goneLimit`",
            "`gone`, with how many",
            Whole,
            "compares again, with the source mended or a higher limit",
            nameof(TableModeTests.NothingIsGoneThatNobodyKnowsToBe)
        ),
        (
            "load",
            "the source has columns that the table does not have, and `new: fail` is said",
            "`new-columns`, with their names",
            Whole,
            "does it again",
            nameof(TableModeTests.NewColumnsAreAddedOrLeftOutOrRefused)
        ),
        (
            "load",
            "`since` can't go with the mode, or its column is missing or has no order",
            "`setting`, `columns`, `since`",
            Whole,
            Again,
            nameof(SinceTests.WhatCannotGoIsRefused)
        ),
        (
            "check",
            "rows are not as they have to be",
            "`check`, with each check and its first row; a warning where it says so",
            "nothing; the rows stand in `file`",
            "looks again",
            nameof(CheckTests.RowsStandInAFileAndSeverityCounts)
        ),
        (
            "check",
            "a column, table or number that a check needs is not there; a line can't be read",
            "`columns`, `no-table`, `setting`, `rows`",
            "nothing",
            "looks again",
            nameof(CheckTests.WhatCannotBeLookedAtIsTold)
        ),
        (
            "load",
            "a JSON or XML document has a mistake",
            "`json`, `xml`; one mistake spoils the whole document",
            "nothing; the target is as it was",
            "reads the file from its start",
            nameof(AwkwardFilesTests.AnArrayInAJsonDocumentIsRead)
        ),
        (
            "load",
            "the database is locked",
            "`locked`",
            Whole,
            Again,
            nameof(LoadTests.ALockedDatabaseIsToldAndNothingIsLost)
        ),
        (
            "load",
            "the connection is cut in the middle",
            "`cut`",
            "nothing; with `restart: batch` batches before it, in a stage beside the table",
            "starts over; with `restart: batch` continues after the last batch",
            nameof(BadInputTests.AConnectionThatIsCutInTheMiddleLosesAndDoublesNothing)
        ),
        (
            "load",
            "the disk is full",
            "`full`",
            Whole,
            Again,
            nameof(BadInputTests.AFullDiskIsToldAndLeavesTheTargetAsItWas)
        ),
        (
            "load",
            "stop, or the service is killed",
            "`stopped`; the attempt is lost",
            "nothing; where there is a stage beside the table, batches before it",
            "starts over; from a file with a stage it continues after the last batch",
            nameof(SourceAndTargetTests.ALoadThatWasCutOffGoesOn)
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
            "transfer",
            "the server can't be reached, or refuses user or key",
            "`unreachable`, `login`",
            Nothing,
            Again,
            nameof(TransferTests.AKeyThatMayNotComeInAndAServerThatIsGoneAreTold)
        ),
        (
            "transfer",
            "the server has another key",
            "`host-key`",
            "nothing; no password is sent",
            "after the connection is corrected",
            nameof(TransferTests.AServerWithAnotherKeyIsNotSpokenTo)
        ),
        (
            "transfer",
            "the connection is cut in the middle of a file",
            "`cut`",
            "files before it; the part of this one",
            "continues after that part",
            nameof(TransferTests.ATransferThatWasCutGoesOn)
        ),
        (
            "transfer",
            "the target is there already",
            "`exists`",
            "files before it",
            Again,
            nameof(TransferTests.WhatIsThereIsReplacedOnlyWhenAsked)
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
        ("notify", "wrong password", "`login`", "nothing is sent", "sends", nameof(WebTests.AWrongMailPasswordIsTold)),
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
