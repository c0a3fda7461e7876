using GateChain.Core.Values;
using GateChain.Kinds.Command;
using GateChain.Kinds.Contract;

namespace GateChain.Kinds.Tests;

/// <summary>Programs that run as another user of the machine; only root can start them so.</summary>
public sealed class ProgramUserTests : IDisposable
{
    readonly Bench _bench = new();
    readonly ProgramUser _nobody;

    public ProgramUserTests()
    {
        Assert.SkipUnless(Environment.IsPrivilegedProcess, "only root can start programs as somebody else");
        _nobody = ProgramUser.Find("nobody", _bench["programs"])!;
        // The way to the work folder is open, as that of a service is.
        File.SetUnixFileMode(_bench.Folder, (UnixFileMode)Convert.ToInt32("755", 8));
    }

    public void Dispose() => _bench.Dispose();

    AttemptContext Context => _bench.Context() with { ProgramsAs = _nobody };

    async Task<string> RunAsync(string settings)
    {
        var result = await new CommandKind().RunAsync(ValueJson.TryParse(settings)!.Value, Context, default);
        return result.Error is { } error
            ? $"{error.Code}: {error.Message} {error.Detail}"
            : result.Outputs.AsMap.Find("value")!.Value.ToString();
    }

    [Fact]
    public async Task ProgramsAreThatUserAndGainNothing()
    {
        Assert.Null(_nobody.Problem());
        Assert.Equal(
            "\"nobody 65534 nobody 1\"",
            await RunAsync(
                """{ "shell": "echo $(id -un) $(id -G) $USER $(awk '/NoNewPrivs/ {print $2}' /proc/self/status)" }"""
            )
        );
        Assert.Equal(
            "\"0000000000000000\"",
            await RunAsync("""{ "shell": "awk '/CapEff/ {print $2}' /proc/self/status" }""")
        );
    }

    [Fact]
    public async Task WhatIsTheServicesIsClosedToThem()
    {
        Directory.CreateDirectory(_bench["data"], UnixFileMode.UserRead | UnixFileMode.UserExecute);
        File.WriteAllText(_bench["data/keys"], "the key");
        Assert.Contains(
            "Permission denied",
            await RunAsync($$"""{ "shell": "cat {{_bench["data/keys"]}}" }"""),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task ScriptsAreTheirsAndNoLinkLeadsTheServiceAstray()
    {
        var settings = $$"""{ "script": "s.sh", "folder": "{{_bench.Folder}}" }""";
        _bench.Attachments["s.sh"] = "cd \"$GATECHAIN_FOLDER\"; echo mine > own; stat -c '%U' s.sh own | sort -u";
        Assert.Equal("\"nobody\"", await RunAsync(settings));
        // A program turns its script into a link to what only the service may write.
        var target = _bench["precious"];
        File.WriteAllText(target, "untouched");
        _bench.Attachments["s.sh"] = $"cd \"$GATECHAIN_FOLDER\"; rm s.sh; ln -s {target} s.sh; echo linked";
        Assert.Equal("\"linked\"", await RunAsync(settings));
        _bench.Attachments["s.sh"] = "echo again";
        Assert.Equal("\"again\"", await RunAsync(settings));
        Assert.Equal("untouched", File.ReadAllText(target));
    }

    [Fact]
    public async Task TheFolderOfTheRunIsTheirs() =>
        Assert.Equal("\"here\"", await RunAsync("""{ "shell": "echo here > runs/1/x; cat runs/1/x" }"""));

    [Fact]
    public void AUserThatTheMachineDoesNotHaveIsNone() =>
        Assert.Null(ProgramUser.Find("no-such-user-here", _bench["programs"]));
}
