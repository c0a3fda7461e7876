using System.Text.Json;
using System.Text.Json.Serialization;
using GateChain.Core.Identity;

namespace GateChain.Storage.Sqlite;

/// <summary>The lines of runs as they lie in the journal's buffer.</summary>
[JsonSerializable(typeof(StoredRun))]
[JsonSourceGenerationOptions(DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingDefault)]
sealed partial class StoredRunJson : JsonSerializerContext
{
    public static byte[] Write(StoredRun stored) => JsonSerializer.SerializeToUtf8Bytes(stored, Default.StoredRun);

    public static StoredRun Read(ReadOnlySpan<byte> bytes)
    {
        var stored = JsonSerializer.Deserialize(bytes, Default.StoredRun)!;
        // An earlier version did not write down why there is a run; a call can be told all the same.
        return
            stored is { Origin: null, Parent: { } call }
            && new RunOrigin.Call(call.Run, call.Step, call.Attempt) is var origin
            ? stored with
            {
                Origin = origin.Word,
                OriginKey = origin.Key,
            }
            : stored;
    }
}
