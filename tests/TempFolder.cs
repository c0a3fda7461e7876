namespace GateChain.Tests;

/// <summary>A folder that goes away with its owner.</summary>
sealed class TempFolder : IDisposable
{
    public string Path { get; }

    public TempFolder() => Path = Directory.CreateTempSubdirectory("gatechain-test-").FullName;

    /// <summary>A folder at a place of one's own; what was there is gone.</summary>
    public TempFolder(string path)
    {
        if (Directory.Exists(path))
            Directory.Delete(path, recursive: true);
        Path = Directory.CreateDirectory(path).FullName;
    }

    public string this[string name] => System.IO.Path.Combine(Path, name);

    public string Write(string name, string text)
    {
        Directory.CreateDirectory(System.IO.Path.GetDirectoryName(this[name])!);
        File.WriteAllText(this[name], text);
        return this[name];
    }

    public void Dispose()
    {
        try
        {
            Directory.Delete(Path, recursive: true);
        }
        catch (IOException)
        { /* something in it is still open; the system clears its temporary files */
        }
    }
}
