namespace GateChain.Cli;

/// <summary>What the command line tells the program that called it.</summary>
static class ExitCodes
{
    public const int Succeeded = 0,
        Failed = 1,
        Usage = 2,
        Stopped = 3,
        Refused = 4,
        NoService = 5,
        Paused = 6,
        NotSignedIn = 7,
        NotAllowed = 8;

    public const string Help = """
        Exit codes: 0 done, or the run succeeded; 1 the run failed; 2 wrong usage, an invalid chain or a parameter that does not fit;
        3 the run was stopped; 4 the service refused (not found, conflict); 5 no service answers, or it can't store;
        6 the run that was followed has paused; 7 not signed in; 8 not allowed.
        """;

    public static int Of(string state) =>
        state switch
        {
            "failed" => Failed,
            "stopped" => Stopped,
            "paused" => Paused,
            _ => Succeeded,
        };
}
