using GateChain.Access.Audit;
using GateChain.Access.Basics;
using GateChain.Client;
using GateChain.Core.Access;
using GateChain.Core.Running;
using GateChain.Storage;

namespace GateChain.Service.Views;

/// <summary>People, tokens, sessions and the audit log as the API shows them.</summary>
static class AccessViews
{
    public static PersonInfo Of(Account account) =>
        new(
            account.Name,
            account.FullName,
            [.. account.Grants.Select(g => g.ToString())],
            account.Issuer,
            account.PasswordHash is not null,
            account.CodeCipher is not null,
            account.Disabled,
            account.Created,
            account.SignedIn
        );

    public static TokenInfo Of(AccessToken token, Account owner) =>
        new(
            token.Id,
            token.Name,
            owner.Name,
            [.. token.Grants.Select(g => g.ToString())],
            token.Created,
            token.Expires,
            token.Used
        );

    /// <summary>What names a session: half of its hash, with which nobody gets in.</summary>
    public static string IdOf(Session session) => session.Hash[..16];

    public static SessionEntry Of(Session session, Session? asking) =>
        new(IdOf(session), session.Began, session.Seen, session.From, session.Agent, session.Hash == asking?.Hash);

    /// <summary>Roles as they are written.</summary>
    /// <exception cref="AccessException">One is none.</exception>
    public static IReadOnlyList<Grant> Grants(IReadOnlyList<string> roles) => [.. roles.Select(GrantOf)];

    static Grant GrantOf(string role)
    {
        var (grant, problem) = Grant.Parse(role);
        return grant ?? throw new AccessException(RefusalKind.Invalid, problem!);
    }

    public static SignInInfo Of(SignInSettings settings) =>
        new(
            settings.CodesFor,
            settings.Provider is { } p ? new(p.Name, p.Issuer, p.ClientId, p.ClientSecret, p.Claim, p.Roles) : null
        );

    public static SignInSettings Settings(SignInInfo info) =>
        new(
            info.CodesFor,
            info.Provider is { } p ? new(p.Name, p.Issuer, p.ClientId, p.ClientSecret, p.Claim, p.Roles) : null
        );

    public static AreaRulesInfo Of(AreaRules rules) =>
        new(rules.Area.Path, rules.AllowCommands, rules.Programs, rules.Plugins, rules.Hosts);

    public static AreaRules Rules(AreaRulesInfo info) =>
        new(new(info.Folder), info.AllowCommands, info.Programs, info.Plugins, info.Hosts);

    public static AuditInfo Of(AuditEntry entry) =>
        new(
            entry.Number,
            entry.Line.At,
            entry.Line.By.Name,
            entry.Line.By.Kind.ToString().ToLowerInvariant(),
            entry.Line.By.Source,
            entry.Line.By.Through,
            entry.Line.Action,
            entry.Line.Object,
            entry.Line.Detail,
            entry.Seal
        );

    public static AuditVerdict Of(AuditFinding found) => new(found.Lines, found.Unsealed, found.Anchors, found.Wrong);
}
