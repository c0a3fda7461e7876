namespace GateChain.Core.Rehearsing;

/// <summary>
/// Names step instances: <c>depots[2]/load</c> one of them, <c>depots/load</c> those of all iterations and rounds.
/// Steps of a child run lie behind the path of the call: <c>reload/load</c>.
/// </summary>
public sealed record StepPattern(string Text)
{
    readonly string[] _parts = Text.Split('/');

    public bool Matches(string path)
    {
        var parts = path.Split('/');
        if (parts.Length != _parts.Length)
            return false;
        for (var i = 0; i < parts.Length; i++)
        {
            if (_parts[i] != parts[i] && _parts[i] != WithoutIndex(parts[i]))
                return false;
        }
        return true;
    }

    /// <summary>The pattern as seen from inside a child run; null when it does not lead there.</summary>
    public StepPattern? Inside(string call) =>
        Text.StartsWith(AddressOf(call) + "/", StringComparison.Ordinal) ? new(Text[(AddressOf(call).Length + 1)..])
        : Text.StartsWith(call + "/", StringComparison.Ordinal) ? new(Text[(call.Length + 1)..])
        : null;

    /// <summary>A path without the numbers of iterations and rounds.</summary>
    public static string AddressOf(string path) => string.Join('/', path.Split('/').Select(WithoutIndex));

    static string WithoutIndex(string part) =>
        part.IndexOf('[', StringComparison.Ordinal) is > 0 and var at ? part[..at] : part;

    public override string ToString() => Text;
}
