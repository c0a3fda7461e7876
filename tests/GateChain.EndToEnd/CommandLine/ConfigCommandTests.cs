using GateChain.EndToEnd.House;

namespace GateChain.EndToEnd.CommandLine;

/// <summary>Options of the service from a file, the environment and the command line, in one order.</summary>
public sealed class ConfigCommandTests : IDisposable
{
    readonly TempFolder _folder = new();

    public void Dispose() => _folder.Dispose();

    async Task<(int Exit, string Out)> CliAsync(
        IReadOnlyDictionary<string, string>? environment,
        params string[] arguments
    )
    {
        var (exit, output, error) = await Place.RunAsync(Place.Program, _folder.Path, environment, arguments);
        return (exit, output + error);
    }

    string Line(string output, string option) =>
        output
            .Split('\n')
            .Single(l => l.TrimStart().StartsWith($"{option} ", StringComparison.Ordinal))
            .Replace(_folder.Path, "HERE", StringComparison.Ordinal);

    [Fact]
    public async Task AnOptionCountsBeforeTheEnvironmentAndThatBeforeTheFile()
    {
        _folder.Write(
            "gatechain.yaml",
            "listen: http://127.0.0.1:1\ndata: from-file\nwork: from-file\nmetrics: true\nlabel: [a, zone=dmz]\n"
        );
        var (exit, output) = await CliAsync(
            new Dictionary<string, string>
            {
                ["GATECHAIN_DATA"] = "from-environment",
                ["GATECHAIN_WORK"] = "from-environment",
                ["GATECHAIN_DATABASE"] = "Host=db;Password=churn;Database=g",
                ["GATECHAIN_PASS"] = "ONE TWO",
            },
            "config",
            "--config",
            _folder["gatechain.yaml"],
            "--work",
            "from-option"
        );
        Assert.True(exit == 0, output);
        Assert.Matches(
            @"listen +http://127\.0\.0\.1:1 +HERE/gatechain\.yaml +GATECHAIN_LISTEN",
            Line(output, "listen")
        );
        Assert.Matches("data +from-environment +GATECHAIN_DATA", Line(output, "data"));
        Assert.Matches("work +from-option +option", Line(output, "work"));
        Assert.Matches("metrics +true +HERE/gatechain.yaml", Line(output, "metrics"));
        Assert.Matches("label +a, zone=dmz +HERE", Line(output, "label"));
        Assert.Matches("pass +ONE, TWO +GATECHAIN_PASS", Line(output, "pass"));
        Assert.Matches("name +GATECHAIN_NAME", Line(output, "name"));
        Assert.Contains("Host=db;Password=…;Database=g", output);
        Assert.DoesNotContain("churn", output);
    }

    [Theory]
    [InlineData("lisen: x", "there is no option “lisen”; did you mean “listen”?")]
    [InlineData("listen: { a: 1 }", "“listen” is a text or a list of texts")]
    [InlineData("- listen", "write options in lines")]
    [InlineData("listen: [", "gatechain.yaml:")]
    [InlineData("", "write options in lines")]
    public async Task AFileThatSaysWhatNoOptionIsIsTold(string text, string sentence)
    {
        _folder.Write("gatechain.yaml", text);
        foreach (var command in (string[])["config", "serve"])
        {
            var (exit, output) = await CliAsync(null, command, "--config", _folder["gatechain.yaml"]);
            Assert.Equal(2, exit);
            Assert.Contains(sentence, output);
        }
        Assert.Contains("can't be read", (await CliAsync(null, "serve", "--config", "none.yaml")).Out);
    }

    [Fact]
    public async Task AServiceTakesItsOptionsFromTheFile()
    {
        _folder.Write("gatechain.yaml", "metrics: true\n");
        await using var service = await Service.EmptyAsync("--config", _folder["gatechain.yaml"]);
        using var http = new HttpClient { BaseAddress = service.Address };
        Assert.Contains(
            "gatechain_runs_in_flight",
            await http.GetStringAsync("metrics", TestContext.Current.CancellationToken)
        );
    }
}
