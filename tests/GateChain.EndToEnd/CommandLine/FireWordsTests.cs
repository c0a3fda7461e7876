using System.Text.Json;
using GateChain.Cli.Terminal;
using GateChain.Client;

namespace GateChain.EndToEnd.CommandLine;

/// <summary>Fires are told in the same words here and in the console: both are held to one file of cases.</summary>
public class FireWordsTests
{
    sealed record FireCase(JsonElement Event, string Happened);

    sealed record FateCase(string Fate, long? Run, string Text);

    sealed record MomentCase(DateTimeOffset At, string? Zone, string Text);

    sealed record Cases(FireCase[] Fires, FateCase[] Fates, MomentCase[] Moments);

    [Fact]
    public void FiresAreToldInTheWordsOfTheConsole()
    {
        var cases = JsonSerializer.Deserialize<Cases>(
            File.ReadAllText(Path.Combine(AppContext.BaseDirectory, "cases", "labels.json")),
            JsonSerializerOptions.Web
        )!;
        Assert.All(cases.Fires, c => Assert.Equal(c.Happened, FireWords.Happened(c.Event)));
        Assert.All(cases.Fates, c => Assert.Equal(c.Text, FireWords.Fate(c.Fate, c.Run)));
        Assert.All(cases.Moments, c => Assert.Equal(c.Text, FireWords.Local(c.At, c.Zone)));
    }
}
