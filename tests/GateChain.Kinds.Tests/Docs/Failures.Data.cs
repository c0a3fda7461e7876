using GateChain.Kinds.Tests.Check;
using GateChain.Kinds.Tests.Load;
using GateChain.Kinds.Tests.Transfer;

namespace GateChain.Kinds.Tests.Docs;

/// <content>Those that move and look at data.</content>
static partial class Failures
{
    static IReadOnlyList<(string Kind, string What, string Code, string Done, string Resume, string Test)> DataRows =>
        [
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
                "an FTP server has another certificate, or one that nobody vouches for",
                "`certificate`",
                "nothing; no password is sent",
                "after the connection is corrected",
                nameof(FtpTests.AServerWithAnotherCertificateIsNotToldThePassword)
            ),
            (
                "transfer",
                "an FTP server does not encipher, or refuses user or password",
                "`no-tls`, `login`",
                "nothing; one that does not encipher is sent no password",
                "after the connection is corrected",
                nameof(FtpServersOfAllSortsTests.WhoDoesNotEncipherHearsNoPassword)
            ),
            (
                "transfer",
                "what answers is no FTP server, or its answers have no end",
                "`cut`",
                Nothing,
                Again,
                nameof(FtpServersOfAllSortsTests.WhoIsNoServerIsTold)
            ),
            (
                "transfer",
                "a bucket is not there, can't be reached or refuses the key",
                "`no-bucket`, `unreachable`, `login`",
                Nothing,
                Again,
                nameof(BucketTests.WhatDoesNotGoIsTold)
            ),
            (
                "transfer",
                "a file is changed while it is sent to a bucket, or what arrives has another MD5",
                "`size`, `changed`, `hash`",
                "files before it; nothing of this one",
                "continues after the parts that are there",
                nameof(BucketTests.ALargeFileGoesInPartsAndContinuesWhereItWasCutOff)
            ),
            (
                "transfer",
                "the target is there already",
                "`exists`",
                "files before it",
                Again,
                nameof(TransferTests.WhatIsThereIsReplacedOnlyWhenAsked)
            ),
        ];
}
