namespace GateChain.Tests;

/// <summary>
/// Parts of docs that are made from catalogues. <c>make docs</c> writes them; otherwise a difference fails.
/// </summary>
static class MadeDocs
{
    const string Begin = "<!-- made from the catalogue by make docs -->",
        End = "<!-- up to here -->";

    /// <summary>The project's folder.</summary>
    public static string Root { get; } = FindRoot();

    static string FindRoot()
    {
        var folder = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(folder!.FullName, "GateChain.slnx")))
            folder = folder.Parent;
        return folder.FullName;
    }

    /// <summary>
    /// Fails when what is made is not what stands in a file between the two marks, or writes it there.
    /// </summary>
    public static void Hold(string file, string made)
    {
        var path = Path.Combine(Root, file);
        var text = File.ReadAllText(path);
        var from = text.IndexOf(Begin, StringComparison.Ordinal) + Begin.Length;
        var to = text.IndexOf(End, StringComparison.Ordinal);
        Assert.True(from >= Begin.Length && to > from, $"{file} has no room for what is made");
        var held = $"{text[..from]}\n{made}\n{text[to..]}";
        if (Environment.GetEnvironmentVariable("GATECHAIN_WRITE_DOCS") is not null)
            File.WriteAllText(path, held);
        else
            Assert.True(held == text, $"{file} is not what the catalogue says; make docs writes it anew");
    }

    /// <summary>A text as a cell of a table takes it.</summary>
    public static string Cell(string text) => text.Replace("|", "\\|", StringComparison.Ordinal);
}
