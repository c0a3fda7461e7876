using GateChain.EndToEnd.House;

namespace GateChain.EndToEnd.CommandLine;

/// <summary>Drafts, releases, tries and renames from the command line.</summary>
public sealed class DesignCommandTests : IAsyncLifetime
{
    const string Chain =
        "chain: t   # kept\nsteps:\n  a: { kind: command, set: { shell: echo 5 } }\n  b: { kind: "
        + "command, set: { shell: \"echo ${steps.a.value}\" } }\ngates: [ { from: a, to: b } ]\n";

    Service _service = null!;

    public async ValueTask InitializeAsync()
    {
        _service = await Service.EmptyAsync();
        await _service.PushAsync(Chain);
    }

    public ValueTask DisposeAsync() => _service.DisposeAsync();

    async Task<string> OkAsync(params string[] arguments)
    {
        var (exit, output, err) = await _service.CliAsync(arguments);
        Assert.True(exit == 0, err + output);
        return output;
    }

    string Put(string name, string text)
    {
        var path = Path.Combine(_service.Work, name);
        File.WriteAllText(path, text);
        return path;
    }

    [Fact]
    public async Task ADraftIsSavedTriedComparedReleasedAndTakenBack()
    {
        Assert.Equal(Chain, await OkAsync("draft", "t"));
        var file = Put("t.yaml", Chain.Replace("echo 5", "echo 7"));
        Assert.StartsWith("saved version 1 of the draft of t", await OkAsync("draft", "t", "--put", file));
        var (exit, output, _) = await _service.CliAsync("compare", "t", "t@draft");
        Assert.Equal((1, "~ step a: changed\n    set.shell: echo 5 → echo 7\n"), (exit, output));
        Assert.Contains("succeeded", await OkAsync("try", "t", "--only", "b", "--given", "a={\"value\": 9}", "-f"));
        var tried = (await _service.Client.RunsAsync("t"))[0];
        Assert.Equal("9", (await _service.Client.StepAsync(tried.Id, "b")).Outputs.GetProperty("value").GetString());
        Assert.StartsWith("t has release 2 now", await OkAsync("release", "t", "--note", "seven"));
        Assert.StartsWith("t has release 3 now", await OkAsync("release", "t", "--again", "1"));
        Assert.Contains("release 1 again", await OkAsync("releases", "t"));
        Assert.Equal(0, (await _service.CliAsync("compare", "t@1", "t@3")).Exit);
        var (refused, _, err) = await _service.CliAsync("release", "t");
        Assert.Equal((4, "“t” has no draft\n"), (refused, err));
        Assert.Equal(
            "1 file written to " + Path.Combine(_service.Work, "back") + "\n",
            await OkAsync("export", "back")
        );
        Assert.Equal(Chain, await File.ReadAllTextAsync(Path.Combine(_service.Work, "back/t.chain.yaml")));
    }

    [Fact]
    public async Task AChainIsRetiredAndBroughtBack()
    {
        await _service.Client.PushAsync(
            new Dictionary<string, byte[]>
            {
                ["t.chain.yaml"] = System.Text.Encoding.UTF8.GetBytes(Chain),
                ["caller.chain.yaml"] = "chain: caller\nsteps: { c: { kind: call, chain: t } }\n"u8.ToArray(),
            }
        );
        var (exit, output, err) = await _service.CliAsync("retire", "t", "-m", "merged into intake");
        Assert.Equal((0, "t is retired; its runs continue, and can be resumed\n"), (exit, output));
        Assert.Equal("warning: caller, step c starts it in vain from now on\n", err);
        Assert.Contains("1, retired", await OkAsync("chains"));
        (exit, _, err) = await _service.CliAsync("run", "t");
        Assert.Equal(4, exit);
        Assert.Contains("was retired by", err);
        Assert.Contains(": merged into intake; nothing starts it until it is brought back", err);
        Assert.Equal("t is in use again\n", await OkAsync("bring-back", "t"));
        (exit, _, err) = await _service.CliAsync("bring-back", "t");
        Assert.Equal((4, "“t” is not retired\n"), (exit, err));
        Assert.Contains("succeeded", await OkAsync("run", "t", "-f"));
    }

    [Fact]
    public async Task ARenameShowsWhatItWouldChangeAndThenDoesIt()
    {
        var file = Put("r.chain.yaml", Chain);
        Assert.Equal(
            $"{file}:3: the step\n{file}:4: an expression\n{file}:5: a gate\n3 places would be changed; "
                + "--write changes the file\n",
            await OkAsync("rename", file, "a", "look")
        );
        Assert.Equal(Chain, await File.ReadAllTextAsync(file));
        await OkAsync("rename", file, "a", "look", "--write");
        Assert.Equal(
            Chain.Replace("  a: {", "  look: {").Replace("steps.a.", "steps.look.").Replace("from: a", "from: look"),
            await File.ReadAllTextAsync(file)
        );
        var (exit, _, err) = await _service.CliAsync("rename", file, "look", "b");
        Assert.Equal((2, "there is already a step “b”\n"), (exit, err));
    }

    [Fact]
    public async Task TheSchemaIsJson() =>
        Assert.Contains("\"$schema\": \"https://json-schema.org/draft/2020-12/schema\"", await OkAsync("schema"));
}
