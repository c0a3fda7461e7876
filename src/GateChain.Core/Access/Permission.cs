namespace GateChain.Core.Access;

/// <summary>What somebody may be allowed to do in an area.</summary>
public enum Permission
{
    /// <summary>See chains, runs, their logs and values.</summary>
    See,

    /// <summary>Start, stop, resume and answer runs, switch triggers, backfill.</summary>
    Operate,

    /// <summary>Change drafts, releases and files of the workspace; check, rehearse and try.</summary>
    Design,

    /// <summary>Change connections, secrets and profiles.</summary>
    Keep,

    /// <summary>Manage people, roles, tokens and what the service as a whole does.</summary>
    Administer,
}
