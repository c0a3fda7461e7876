using System.Text.Json;
using GateChain.Core.Access;
using GateChain.Core.Identity;
using GateChain.Core.Running;
using GateChain.Storage;

namespace GateChain.Access.Basics;

/// <summary>An OpenID provider that says who people are.</summary>
/// <param name="Name">What the sign-in page calls it.</param>
/// <param name="Issuer">Its address, whose discovery document says the rest.</param>
/// <param name="ClientId">What the service is called there.</param>
/// <param name="ClientSecret">The name of the secret that the service shows there; null for none.</param>
/// <param name="Claim">The claim whose values are looked up in the table. Default <c>groups</c>.</param>
/// <param name="Roles">Values of that claim, and the role that each gives, as <c>operator:sales</c>.</param>
public sealed record ProviderSettings(
    string Name,
    string Issuer,
    string ClientId,
    string? ClientSecret,
    string Claim,
    IReadOnlyDictionary<string, string> Roles
)
{
    /// <summary>The roles that the values of the claim give.</summary>
    public IReadOnlyList<Grant> GrantsOf(IEnumerable<string> values) =>
        [
            .. values
                .Select(v => Roles.TryGetValue(v, out var text) ? Grant.Parse(text).Grant : null)
                .OfType<Grant>()
                .Distinct(),
        ];
}

/// <summary>How people sign in.</summary>
/// <param name="CodesFor">Roles whose people need one-time codes, beside their password.</param>
/// <param name="Provider">Who else says who people are; null for nobody.</param>
public sealed record SignInSettings(IReadOnlyList<string> CodesFor, ProviderSettings? Provider)
{
    /// <summary>Passwords, and codes for who likes.</summary>
    public static SignInSettings Default { get; } = new([], null);
}

/// <summary>What an admin has set for the service as a whole. Thread-safe.</summary>
public sealed class AccessSettings
{
    const string SignInName = "sign-in",
        RulesName = "area-rules";

    readonly AccessState _state;
    readonly TimeProvider _time;

    // Read once for each text that was set.
    (string? Text, SignInSettings Value) _signIn = (null, SignInSettings.Default);
    (string? Text, IReadOnlyDictionary<Area, AreaRules> Value) _rules = (null, new Dictionary<Area, AreaRules>());

    internal AccessSettings(AccessState state, TimeProvider time) => (_state, _time) = (state, time);

    /// <summary>Something was set.</summary>
    public event Action? Changed;

    /// <summary>How people sign in.</summary>
    public SignInSettings SignIn
    {
        get
        {
            var text = _state.Settings.GetValueOrDefault(SignInName);
            if (_signIn.Text != text)
            {
                _signIn = (
                    text,
                    text is null ? SignInSettings.Default : JsonSerializer.Deserialize<SignInSettings>(text)!
                );
            }
            return _signIn.Value;
        }
    }

    /// <summary>What steps may use, by area.</summary>
    public IReadOnlyDictionary<Area, AreaRules> Rules
    {
        get
        {
            var text = _state.Settings.GetValueOrDefault(RulesName);
            if (_rules.Text != text)
            {
                _rules = (
                    text,
                    text is null ? [] : JsonSerializer.Deserialize<List<AreaRules>>(text)!.ToDictionary(r => r.Area)
                );
            }
            return _rules.Value;
        }
    }

    /// <summary>Says how people sign in.</summary>
    /// <exception cref="AccessException">A role or an address is none.</exception>
    /// <exception cref="StorageException">It could not be stored.</exception>
    public async Task SetSignInAsync(SignInSettings settings, Actor by)
    {
        if (settings.CodesFor.FirstOrDefault(r => Roles.Of(r) is null) is { } unknown)
            throw new AccessException(RefusalKind.Invalid, Grant.Parse(unknown).Problem!);
        if (settings.Provider is { } provider)
        {
            if (
                !Uri.TryCreate(provider.Issuer, UriKind.Absolute, out var issuer)
                || !(issuer.Scheme == "https" || issuer is { Scheme: "http", IsLoopback: true })
            )
            {
                throw new AccessException(RefusalKind.Invalid, $"“{provider.Issuer}” is no https address");
            }
            foreach (var (_, role) in provider.Roles)
            {
                if (Grant.Parse(role).Problem is { } problem)
                    throw new AccessException(RefusalKind.Invalid, problem);
            }
        }
        await SetAsync(
                SignInName,
                settings,
                "sign-in",
                $"codes for {(settings.CodesFor is [] ? "nobody" : string.Join(", ", settings.CodesFor))}; "
                    + $"provider {settings.Provider?.Issuer ?? "none"}",
                by
            )
            .ConfigureAwait(false);
    }

    /// <summary>Says what steps of an area may use; takes back what was said when the rules are null.</summary>
    /// <exception cref="StorageException">It could not be stored.</exception>
    public Task SetRulesAsync(Area area, AreaRules? rules, Actor by)
    {
        var all = Rules.Values.Where(r => r.Area != area);
        return SetAsync(
            RulesName,
            (IReadOnlyList<AreaRules>)[.. rules is null ? all : all.Append(rules with { Area = area })],
            area == Area.Root ? "rules of the workspace" : $"rules of {area.Path}",
            rules is null ? "as in the folder above" : Said(rules),
            by
        );
    }

    static string Said(AreaRules rules)
    {
        static string Names(IReadOnlyList<string>? names) =>
            names is null ? "all"
            : names.Count == 0 ? "none"
            : string.Join(" ", names);
        return $"commands {(rules.AllowCommands ? "yes" : "no")}; programs {Names(rules.Programs)}; "
            + $"plug-ins {Names(rules.Plugins)}; hosts {Names(rules.Hosts)}";
    }

    async Task SetAsync<T>(string name, T value, string what, string detail, Actor by)
    {
        await _state
            .ChangeAsync(s =>
                s.SetAsync(name, JsonSerializer.Serialize(value), new(_time.GetUtcNow(), by, "set", what, detail))
            )
            .ConfigureAwait(false);
        Changed?.Invoke();
    }
}
