using GateChain.Client;

namespace GateChain.Cli.Terminal;

/// <summary>Problems, one line each, as compilers write them.</summary>
static class ProblemLines
{
    public static void Write(ProblemInfo problem, TextWriter to) =>
        to.WriteLine(
            $"{problem.File}:{problem.Line}:{problem.Column}: {problem.Severity} {problem.Code}: "
                + $"{problem.Message}{(problem.Fix is null ? "" : $" ({problem.Fix})")}"
        );
}
