using System.Security.Cryptography;
using System.Text;
using GateChain.Kinds.Contract;

namespace GateChain.Kinds.FileServers;

/// <summary>The id that a store gives an upload in parts, kept in the step's folder so that the next attempt continues.
/// </summary>
/// <param name="context">The attempt.</param>
/// <param name="what">What is uploaded, and where to: of another file it is another upload.</param>
sealed class UploadNote(AttemptContext context, string what)
{
    readonly string _path = Path.Combine(
        context.StepFolder,
        $"upload-{Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(what)).AsSpan(0, 8))}"
    );

    /// <summary>The id; null when there is none.</summary>
    public string? Id => File.Exists(_path) ? File.ReadAllText(_path) : null;

    /// <summary>Keeps it, and gives it.</summary>
    public string Keep(string id)
    {
        Directory.CreateDirectory(context.StepFolder);
        File.WriteAllText(_path, id);
        return id;
    }

    public void Forget() => File.Delete(_path);
}
