using System.Text.Json;
using System.Text.Json.Serialization;
using GateChain.Core.Identity;

namespace GateChain.Storage.Sqlite;

/// <summary>The lines of runs as they lie in the journal's tail.</summary>
[JsonSerializable(typeof(RunHead))]
[JsonSourceGenerationOptions(DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingDefault)]
sealed partial class HeadJson : JsonSerializerContext
{
    public static byte[] Write(RunHead head) => JsonSerializer.SerializeToUtf8Bytes(head, Default.RunHead);

    public static RunHead Read(ReadOnlySpan<byte> bytes)
    {
        var head = JsonSerializer.Deserialize(bytes, Default.RunHead)!;
        // An earlier version did not write down why there is a run; a call can be told all the same.
        return
            head is { Origin: null, Parent: { } call }
            && new RunOrigin.Call(call.Run, call.Step, call.Attempt) is var origin
            ? head with
            {
                Origin = origin.Word,
                OriginKey = origin.Key,
            }
            : head;
    }
}
