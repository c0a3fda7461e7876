using System.Text.Json;
using GateChain.Access.Audit;

namespace GateChain.Service.Access;

/// <summary>Reads the anchors of the audit log from the service's own log files.</summary>
static class AnchorFiles
{
    /// <summary>What every log file is called.</summary>
    public const string Pattern = "service-*.jsonl";

    /// <summary>Seals by the number of their line. Lines that can't be read are left out.</summary>
    public static IReadOnlyDictionary<long, string> Read(string folder)
    {
        var anchors = new Dictionary<long, string>();
        foreach (var path in Directory.EnumerateFiles(folder, Pattern))
        {
            using var file = new FileStream(path, FileMode.Open, FileAccess.Read, FileShare.ReadWrite);
            using var reader = new StreamReader(file);
            while (reader.ReadLine() is { } line)
            {
                if (!line.Contains(AuditSealer.Anchor, StringComparison.Ordinal))
                    continue;
                try
                {
                    using var entry = JsonDocument.Parse(line);
                    if (
                        entry.RootElement.TryGetProperty("Number", out var number)
                        && entry.RootElement.TryGetProperty("Seal", out var seal)
                    )
                    {
                        anchors[number.GetInt64()] = seal.GetString()!;
                    }
                }
                catch (Exception e) when (e is JsonException or FormatException or InvalidOperationException)
                {
                    // Half of a line, where the service was killed while writing it.
                }
            }
        }
        return anchors;
    }
}
