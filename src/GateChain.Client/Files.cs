using System.Text.Json;

namespace GateChain.Client;

/// <summary>A file of the workspace that is no chain.</summary>
/// <param name="Path">Where it lies.</param>
/// <param name="Kind"><c>connections profiles lanes calendars triggers attachment</c>.</param>
/// <param name="Version">Names the content that it has now; to be given when it is saved.</param>
/// <param name="By">Who changed it last.</param>
/// <param name="Size">Bytes.</param>
/// <param name="UsedBy">The chains that an attachment belongs to, or the files that name it.</param>
public sealed record FileInfo(
    string Path,
    string Kind,
    string Version,
    string By,
    DateTimeOffset At,
    long Size,
    IReadOnlyList<string> UsedBy
);

/// <summary>A file with its content.</summary>
/// <param name="Text">Its text; null for what is no UTF-8 text.</param>
public sealed record FileContent(FileInfo File, string? Text);

/// <summary>A version of a file.</summary>
/// <param name="Version">Names it: a number, or of an attachment the chain and its release.</param>
/// <param name="Action">By what it came: <c>push</c>, <c>save</c>, <c>release</c> …; null when that is not
/// known.</param>
/// <param name="Size">Bytes; null says that the file was taken away.</param>
public sealed record FileVersionInfo(string Version, string By, DateTimeOffset At, string? Action, long? Size);

/// <summary>Checks a file, or saves it.</summary>
/// <param name="Path">Where it lies.</param>
/// <param name="Text">Its text; null with <paramref name="Base64"/>, or to take it away.</param>
/// <param name="Base64">Its bytes, for what is no text.</param>
/// <param name="Version">The version that was edited, empty for a new file; null to check only.</param>
/// <param name="Anyway">Whether it is saved though something would not fit any more.</param>
/// <param name="Note">For attachments: what the releases are for that they make.</param>
public sealed record FileRequest(
    string Path,
    string? Text = null,
    string? Base64 = null,
    string? Version = null,
    bool Anyway = false,
    string? Note = null
);

/// <summary>What came of it.</summary>
/// <param name="Problems">What is wrong with the file.</param>
/// <param name="Breaks">What does not fit any more, or would not.</param>
/// <param name="Version">The version that was saved; null when nothing was.</param>
public sealed record FileAnswerInfo(
    IReadOnlyList<ProblemInfo> Problems,
    IReadOnlyList<BrokenInfo> Breaks,
    string? Version
);

/// <summary>A chain, or a file of triggers, that does not fit what stands beside it.</summary>
/// <param name="What">The chain's name, or the file's path.</param>
/// <param name="IsChain">Whether it is a chain.</param>
/// <param name="Message">What is wrong, the first of it.</param>
/// <param name="More">How many more things are wrong.</param>
public sealed record BrokenInfo(string What, bool IsChain, string Message, int More);

/// <summary>A type of connection.</summary>
/// <param name="Name">The word after <c>type:</c>.</param>
/// <param name="Doc">What it leads to.</param>
/// <param name="Schema">JSON Schema of its settings.</param>
public sealed record ConnectionTypeInfo(string Name, string Doc, JsonElement Schema);

/// <summary>A connection of a file that is not saved, to be gone to once.</summary>
/// <param name="Path">Where the file lies, or is to lie.</param>
/// <param name="Text">What it says.</param>
/// <param name="Name">The connection.</param>
public sealed record ConnectionTryRequest(string Path, string Text, string Name);
