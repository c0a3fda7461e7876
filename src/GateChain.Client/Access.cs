namespace GateChain.Client;

/// <summary>Who asks, and how one signs in.</summary>
/// <param name="State"><c>open</c>: there are no accounts, and everybody on this machine may everything;
/// <c>first-start</c>: the first account is to be made, with the link that the service printed; <c>signed-out</c>;
/// <c>signed-in</c>; <c>needs-codes</c>: signed in, and one-time codes have to be set up before anything else.</param>
/// <param name="Name">Who; null when signed out.</param>
/// <param name="FullName">Their name in full.</param>
/// <param name="Roles">Their roles, as <c>operator:sales</c>.</param>
/// <param name="May">By permission (<c>see</c>, <c>operate</c>, <c>design</c>, <c>keep</c>, <c>administer</c>), the
/// folders in which they have it, with all below; an empty text is the whole workspace.</param>
/// <param name="Provider">What the OpenID provider is called that one can sign in with; null for none.</param>
/// <param name="Through">How they come in: <c>session</c>, <c>token</c>; null when there are no accounts.</param>
/// <param name="HasCodes">Whether they have one-time codes.</param>
public sealed record SessionInfo(
    string State,
    string? Name,
    string? FullName,
    IReadOnlyList<string> Roles,
    IReadOnlyDictionary<string, IReadOnlyList<string>> May,
    string? Provider,
    string? Through,
    bool HasCodes
);

/// <summary>Signs in.</summary>
/// <param name="Code">A one-time or recovery code, where one is needed.</param>
public sealed record SignInRequest(string Name, string Password, string? Code = null);

/// <summary>What a one-time link holds.</summary>
public sealed record LinkRequest(string Link);

/// <summary>What a one-time link is for.</summary>
/// <param name="Name">Whose password it sets; null for the first account.</param>
public sealed record LinkInfo(string? Name);

/// <summary>Sets the password of whose link it is, or makes the first account.</summary>
/// <param name="Name">The name of the first account; null for a link of somebody's.</param>
public sealed record LinkPasswordRequest(string Link, string Password, string? Name = null);

/// <summary>Sets one's own password.</summary>
public sealed record PasswordRequest(string Old, string New);

/// <summary>What an authenticator needs.</summary>
/// <param name="Secret">To type.</param>
/// <param name="Address">To show as a picture.</param>
public sealed record CodesBegun(string Secret, string Address);

/// <summary>Turns one-time codes on.</summary>
/// <param name="Secret">What was begun with.</param>
/// <param name="Code">What the authenticator shows.</param>
public sealed record CodesRequest(string Secret, string Code);

/// <summary>Codes that help when the device is lost; told once.</summary>
public sealed record RecoveryCodes(IReadOnlyList<string> Codes);

/// <summary>Asks for one's password once more.</summary>
public sealed record ConfirmRequest(string Password);

/// <summary>Somebody's session.</summary>
/// <param name="Id">Names it; is not what the browser shows.</param>
/// <param name="IsThis">Whether it is the one that asks.</param>
public sealed record SessionEntry(
    string Id,
    DateTimeOffset Began,
    DateTimeOffset Seen,
    string From,
    string Agent,
    bool IsThis
);

/// <summary>A token, without what is shown.</summary>
/// <param name="Id">Names it for good.</param>
/// <param name="Owner">Whose it is.</param>
/// <param name="Roles">What it allows, as far as its owner may.</param>
/// <param name="Expires">Until when; null for until it is revoked.</param>
/// <param name="Used">When it was last used; null for never.</param>
public sealed record TokenInfo(
    string Id,
    string Name,
    string Owner,
    IReadOnlyList<string> Roles,
    DateTimeOffset Created,
    DateTimeOffset? Expires,
    DateTimeOffset? Used
);

/// <summary>Makes a token.</summary>
/// <param name="Name">What it is for.</param>
/// <param name="Roles">What it allows, as <c>operator:sales</c>; no more than one may oneself.</param>
/// <param name="Days">How many days it holds, 1 to 3,650; null for until it is revoked.</param>
public sealed record TokenRequest(string Name, IReadOnlyList<string> Roles, int? Days = 90);

/// <summary>Makes a token of somebody's.</summary>
/// <param name="Owner">Whose; it allows no more than they may.</param>
/// <param name="Name">What it is for.</param>
/// <param name="Roles">What it allows.</param>
/// <param name="Days">How many days it holds, 1 to 3,650; null for until it is revoked.</param>
public sealed record OwnedTokenRequest(string Owner, string Name, IReadOnlyList<string> Roles, int? Days = 90);

/// <summary>A new token.</summary>
/// <param name="Token">What is shown to be let in; told once.</param>
/// <param name="Info">What is kept.</param>
public sealed record NewToken(string Token, TokenInfo Info);

/// <summary>Somebody who may sign in.</summary>
/// <param name="Issuer">The provider that says who they are; null for an account with a password.</param>
/// <param name="HasPassword">Whether they have chosen one.</param>
/// <param name="HasCodes">Whether they have one-time codes.</param>
/// <param name="SignedIn">When they signed in last.</param>
public sealed record PersonInfo(
    string Name,
    string? FullName,
    IReadOnlyList<string> Roles,
    string? Issuer,
    bool HasPassword,
    bool HasCodes,
    bool Disabled,
    DateTimeOffset Created,
    DateTimeOffset? SignedIn
);

/// <summary>Adds somebody.</summary>
/// <param name="Roles">As <c>operator:sales</c>, or <c>operator</c> for the whole workspace.</param>
public sealed record PersonRequest(string Name, IReadOnlyList<string> Roles, string? FullName = null);

/// <summary>Somebody who was added, and the link with which they choose a password.</summary>
/// <param name="Link">Its address; counts once, for 24 hours.</param>
public sealed record NewPerson(PersonInfo Person, string Link);

/// <summary>Gives somebody other roles.</summary>
public sealed record RolesRequest(IReadOnlyList<string> Roles);

/// <summary>Keeps somebody out, or lets them in again.</summary>
public sealed record DisabledRequest(bool Disabled);

/// <summary>An OpenID provider.</summary>
/// <param name="Name">What the sign-in page calls it.</param>
/// <param name="Issuer">Its address.</param>
/// <param name="ClientId">What the service is called there.</param>
/// <param name="ClientSecret">The name of the secret that the service shows there; null for none.</param>
/// <param name="Claim">The claim whose values give roles.</param>
/// <param name="Roles">The role of each value, as <c>operator:sales</c>.</param>
public sealed record ProviderInfo(
    string Name,
    string Issuer,
    string ClientId,
    string? ClientSecret,
    string Claim,
    IReadOnlyDictionary<string, string> Roles
);

/// <summary>How people sign in.</summary>
/// <param name="CodesFor">Roles whose people need one-time codes.</param>
public sealed record SignInInfo(IReadOnlyList<string> CodesFor, ProviderInfo? Provider);

/// <summary>What steps of a folder may use.</summary>
/// <param name="Folder">Where; empty for the whole workspace.</param>
/// <param name="AllowCommands">Whether <c>command</c> steps run programs.</param>
/// <param name="Programs">The programs that they may run; null for all.</param>
/// <param name="Plugins">The kinds of one's own that may be used; null for all.</param>
/// <param name="Hosts">The hosts that steps may go to; null for all.</param>
public sealed record AreaRulesInfo(
    string Folder,
    bool AllowCommands,
    IReadOnlyList<string>? Programs = null,
    IReadOnlyList<string>? Plugins = null,
    IReadOnlyList<string>? Hosts = null
);

/// <summary>Asks to let a program in.</summary>
/// <param name="Client">What it is and where it runs.</param>
public sealed record DeviceStart(string Client);

/// <summary>What a program needs to be let in.</summary>
/// <param name="DeviceCode">What it keeps to itself.</param>
/// <param name="UserCode">What it shows.</param>
/// <param name="VerificationUri">Where the person types that.</param>
/// <param name="VerificationUriComplete">The same with the code in it.</param>
/// <param name="ExpiresIn">Seconds that it counts.</param>
/// <param name="Interval">Seconds to wait between two looks.</param>
/// <remarks>Source: RFC 8628, 3.2.</remarks>
public sealed record DeviceCodes(
    string DeviceCode,
    string UserCode,
    string VerificationUri,
    string VerificationUriComplete,
    int ExpiresIn,
    int Interval
);

/// <summary>Looks whether it is let in.</summary>
public sealed record DeviceLook(string DeviceCode);

/// <summary>How it stands.</summary>
/// <param name="State"><c>pending</c>, <c>slow-down</c>, <c>denied</c>, <c>expired</c> or <c>granted</c>.</param>
/// <param name="Token">What it shows from now on, when granted; told once.</param>
public sealed record DeviceAnswer(string State, string? Token);

/// <summary>A program that asks to be let in.</summary>
public sealed record DeviceInfo(string UserCode, string Client, string From, DateTimeOffset Expires);

/// <summary>Lets a program in, or keeps it out.</summary>
/// <param name="Allow">Whether it is let in.</param>
/// <param name="Roles">What it may do; all that one may oneself when null.</param>
public sealed record DeviceDecision(bool Allow, IReadOnlyList<string>? Roles = null);

/// <summary>A line of the audit log.</summary>
/// <param name="Number">Grows with every line.</param>
/// <param name="By">Who, by the name that they have or had.</param>
/// <param name="Kind">What kind of somebody: <c>person</c>, <c>token</c>, <c>trigger</c>, <c>run</c>, <c>step</c>,
/// <c>service</c>.</param>
/// <param name="From">The address that it came from.</param>
/// <param name="Through">Through what: <c>console</c>, <c>token nightly</c>.</param>
/// <param name="Action">What was done.</param>
/// <param name="Object">To what.</param>
/// <param name="Detail">What was before and is now, in short.</param>
/// <param name="Seal">The hash of the line and all before it; null for a moment.</param>
public sealed record AuditInfo(
    long Number,
    DateTimeOffset At,
    string By,
    string Kind,
    string? From,
    string? Through,
    string Action,
    string Object,
    string? Detail,
    string? Seal
);

/// <summary>What a look over the whole audit log found.</summary>
/// <param name="Lines">How many lines it has.</param>
/// <param name="Unsealed">How many at its end wait for their seal.</param>
/// <param name="Anchors">How many anchors of the log files were held against it.</param>
/// <param name="Wrong">What is wrong, a sentence each; empty when it is whole.</param>
public sealed record AuditVerdict(long Lines, int Unsealed, int Anchors, IReadOnlyList<string> Wrong);
