namespace GateChain.Storage;

/// <summary>
/// What chains keep from run to run. Values come with the decisions of runs (<see cref="AppendExtras"/>). Thread-safe.
/// </summary>
public interface IKeptValues
{
    /// <summary>The values of a chain by name, as JSON.</summary>
    ValueTask<IReadOnlyDictionary<string, string>> OfAsync(string chain);
}
