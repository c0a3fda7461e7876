using System.CommandLine;
using GateChain.Cli.Terminal;
using GateChain.Client;
using Spectre.Console;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain release CHAIN</c></summary>
static class ReleaseCommand
{
    static readonly Argument<string> Chain = new("CHAIN") { Description = "The chain's name" };
    static readonly Option<string?> Note = new("--note", "-m") { Description = "What the release is for" };
    static readonly Option<int?> Again = new("--again")
    {
        Description = "Release the content of this earlier release again, under a new number",
    };

    public static Command Create() =>
        ServiceCommand.Create(
            "release",
            "Makes a chain's draft its next release, or goes back to an earlier one",
            async (parsed, client, cancel) =>
            {
                var (chain, note) = (parsed.GetValue(Chain)!, parsed.GetValue(Note));
                ReleaseInfo release;
                if (parsed.GetValue(Again) is { } number)
                {
                    release = await client.GoBackAsync(chain, number, note, cancel);
                }
                else
                {
                    var draft = await client.DraftAsync(chain, cancel);
                    UsesCommand.Warn(await client.UsesAsync(chain, draft.Source, cancel));
                    release = await client.MakeReleaseAsync(chain, draft.Version, note, cancel);
                }
                if (parsed.GetValue(ServiceCommand.Json))
                    ServiceCommand.WriteJson(release);
                else
                    Console.WriteLine($"{chain} has release {release.Number} now  {release.Release[..12]}");
                return ExitCodes.Succeeded;
            },
            Chain,
            Note,
            Again
        );
}

/// <summary><c>gatechain releases CHAIN</c></summary>
static class ReleasesCommand
{
    static readonly Argument<string> Chain = new("CHAIN") { Description = "The chain's name" };

    public static Command Create() =>
        ServiceCommand.Create(
            "releases",
            "Lists a chain's releases, newest first",
            async (parsed, client, cancel) =>
            {
                var releases = await client.ReleasesAsync(parsed.GetValue(Chain)!, cancel);
                if (parsed.GetValue(ServiceCommand.Json))
                {
                    ServiceCommand.WriteJson(releases);
                    return ExitCodes.Succeeded;
                }
                if (releases.Count == 0)
                {
                    Console.WriteLine($"{parsed.GetValue(Chain)} has no releases");
                    return ExitCodes.Succeeded;
                }
                var table = Tables.Create(
                    new("release", IsNumber: true),
                    new("made (UTC)"),
                    new("by"),
                    new("content"),
                    new("note", IsLong: true)
                );
                foreach (var release in releases)
                {
                    table.AddRow(
                        new Text(release.Number.ToString()),
                        new Text($"{release.Made:yyyy-MM-dd HH:mm:ss}"),
                        Tables.Cell(release.Author),
                        new Text(release.Release[..12]),
                        Tables.Cell(release.Note)
                    );
                }

                Tables.Write(table);
                return ExitCodes.Succeeded;
            },
            Chain
        );
}
