using System.Text.Json;
using System.Text.Json.Serialization;

namespace GateChain.Storage.Sqlite;

/// <summary>The lines of runs as they lie in the journal's tail.</summary>
[JsonSerializable(typeof(RunHead))]
[JsonSourceGenerationOptions(DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingDefault)]
sealed partial class HeadJson : JsonSerializerContext
{
    public static byte[] Write(RunHead head) => JsonSerializer.SerializeToUtf8Bytes(head, Default.RunHead);

    public static RunHead Read(ReadOnlySpan<byte> bytes) => JsonSerializer.Deserialize(bytes, Default.RunHead)!;
}
