using GateChain.Access.Basics;
using GateChain.Access.Sessions;
using GateChain.Access.Tokens;
using GateChain.Core.Access;
using GateChain.Core.Identity;

namespace GateChain.Access.Tests;

/// <summary>Sessions, tokens, and programs that ask to be let in.</summary>
public class SessionTests
{
    [Fact]
    public async Task ASessionEndsAfterAnHourOfRestAndAfterTwelveInAnyCase()
    {
        await using var house = await House.NewAsync();
        var ann = await house.AddAsync("ann", "admin");
        var secret = await house.Access.Sessions.BeginAsync(ann, "10.0.0.9", "test", "password");
        house.Time.Advance(TimeSpan.FromMinutes(59));
        // What a page does by itself keeps nobody signed in.
        Assert.NotNull(house.Access.Sessions.Find(secret, isActive: false));
        house.Time.Advance(TimeSpan.FromMinutes(2));
        Assert.Null(house.Access.Sessions.Find(secret));
        secret = await house.Access.Sessions.BeginAsync(ann, "10.0.0.9", "test", "password");
        for (var half = 0; half < 23; half++)
        {
            house.Time.Advance(TimeSpan.FromMinutes(30));
            Assert.NotNull(house.Access.Sessions.Find(secret));
        }
        house.Time.Advance(TimeSpan.FromMinutes(30));
        Assert.Null(house.Access.Sessions.Find(secret));
        Assert.Empty(house.Access.Sessions.Of(ann));
    }

    [Fact]
    public async Task SessionsOutliveARestartAndEndWithPasswordRoleAndAccount()
    {
        await using var house = await House.NewAsync();
        await house.AddAsync("ann", "admin");
        var bob = await house.AddAsync("bob", "operator:sales");
        var secret = await house.Access.Sessions.BeginAsync(bob, "10.0.0.9", "test", "password");
        await house.RestartAsync();
        Assert.True(house.Access.Sessions.Find(secret)!.Value.Rights.Allow(Permission.Operate, new("sales")));
        // Nothing of what the browser shows is in the store.
        Assert.DoesNotContain(secret, string.Join(' ', house.Access.Sessions.Of(bob)), StringComparison.Ordinal);

        await house.Access.People.SetGrantsAsync(bob, House.Grants("viewer:sales"), House.Me);
        Assert.False(house.Access.Sessions.Find(secret)!.Value.Rights.AllowSomewhere(Permission.Operate));
        await house.Access.People.SetPasswordAsync(bob, House.Password, "another good sentence", House.Me);
        Assert.Null(house.Access.Sessions.Find(secret));
        secret = await house.Access.Sessions.BeginAsync(bob, "10.0.0.9", "test", "password");
        await house.Access.People.SetDisabledAsync(bob, true, House.Me);
        Assert.Null(house.Access.Sessions.Find(secret));
        Assert.Null((await house.SignInAsync("bob", "another good sentence")).Account);
    }

    [Fact]
    public async Task ATokenAllowsNoMoreThanItsOwnerMayAndEndsAtOnce()
    {
        await using var house = await House.NewAsync();
        await house.AddAsync("ann", "admin");
        var bob = await house.AddAsync("bob", "designer:sales", "viewer");
        Task<(Storage.AccessToken, string)> Add(params string[] roles) =>
            house.Access.Tokens.AddAsync(bob, "nightly load", House.Grants(roles), TimeSpan.FromDays(1), House.Me);
        await Assert.ThrowsAsync<AccessException>(() => Add("operator"));
        await Assert.ThrowsAsync<AccessException>(() => Add("keeper:sales"));
        await Assert.ThrowsAsync<AccessException>(() => Add());
        var (token, secret) = await Add("operator:sales/daily");
        var rights = house.Access.Tokens.Find(secret)!.Value.Rights;
        Assert.True(rights.Allow(Permission.Operate, new("sales/daily")));
        Assert.False(rights.Allow(Permission.See, new("sales")));
        // What its owner loses, it loses.
        await house.Access.People.SetGrantsAsync(bob, House.Grants("viewer"), House.Me);
        rights = house.Access.Tokens.Find(secret)!.Value.Rights;
        Assert.Equal(["viewer:sales/daily"], rights.Grants.Select(g => g.ToString()));
        Assert.Null(house.Access.Tokens.Find(secret[..^1]));
        house.Time.Advance(TimeSpan.FromMinutes(1));
        await house.RestartAsync();
        Assert.NotNull(house.Access.Tokens.All[0].Token.Used);
        await house.Access.Tokens.RevokeAsync(token, House.Me);
        Assert.Null(house.Access.Tokens.Find(secret));
        (_, secret) = await Add("viewer");
        house.Time.Advance(TimeSpan.FromDays(1));
        Assert.Null(house.Access.Tokens.Find(secret));
        // A token is never in the audit log.
        Assert.DoesNotContain((await house.AuditAsync()), l => l.Contains(secret, StringComparison.Ordinal));
    }

    [Fact]
    public async Task AProgramIsLetInOnceByWhoConfirmsItsCode()
    {
        await using var house = await House.NewAsync();
        var ann = await house.AddAsync("ann", "admin");
        var devices = house.Access.Devices;
        var (device, request) = devices.Begin("gatechain on creamery-7", "10.0.0.9");
        Assert.Equal(DeviceState.Pending, devices.Look(device).State);
        Assert.Equal(DeviceState.SlowDown, devices.Look(device).State);
        // Typed as people type.
        Assert.Equal(
            "gatechain on creamery-7",
            devices.OfCode(request.UserCode.ToLowerInvariant().Replace("-", " ")).Client
        );
        await devices.GrantAsync(request.UserCode, ann, House.Grants("viewer"), House.Me);
        Assert.Throws<AccessException>(() => devices.OfCode(request.UserCode));
        var (state, token) = devices.Look(device);
        Assert.Equal(DeviceState.Granted, state);
        Assert.Equal(["viewer"], house.Access.Tokens.Find(token!)!.Value.Token.Grants.Select(g => g.ToString()));
        Assert.Equal(DeviceState.Expired, devices.Look(device).State);

        (device, request) = devices.Begin("another", "10.0.0.9");
        devices.Deny(request.UserCode);
        Assert.Equal(DeviceState.Denied, devices.Look(device).State);
        (device, _) = devices.Begin("another", "10.0.0.9");
        house.Time.Advance(DeviceSignIn.Waits);
        Assert.Equal(DeviceState.Expired, devices.Look(device).State);
        for (var i = 0; i < 200; i++)
            devices.Begin("many", "10.0.0.9");
        Assert.Throws<AccessException>(() => devices.Begin("one more", "10.0.0.9"));
    }

    [Fact]
    public async Task RolesOfTheProviderFollowItsTable()
    {
        await using var house = await House.NewAsync();
        await house.AddAsync("ann", "admin");
        await house.Access.Settings.SetSignInAsync(
            new(
                [],
                new(
                    "Larkmoor",
                    "https://id.larkmoor.example",
                    "gatechain",
                    null,
                    "groups",
                    new Dictionary<string, string> { ["tank-crew"] = "operator:intake", ["office"] = "viewer" }
                )
            ),
            House.Me
        );
        Task<Storage.Account> Come(string subject, string name, params string[] groups) =>
            house.Access.SignIn.ByProviderAsync(subject, name, null, groups, "10.0.0.9");
        await Assert.ThrowsAsync<AccessException>(() => Come("1", "eve", "strangers"));
        var bob = await Come("2", "bob", "tank-crew", "strangers");
        Assert.Equal(["operator:intake"], bob.Grants.Select(g => g.ToString()));
        var again = await Come("2", "bobby", "office");
        Assert.Equal((bob.Id, "bob", "viewer"), (again.Id, again.Name, again.Grants[0].ToString()));
        // One of ours has the name: the other is somebody else, whatever they are called there.
        Assert.Equal("ann@id.larkmoor.example", (await Come("3", "ann", "office")).Name);
        Assert.Null((await house.SignInAsync("bob", House.Password)).Account);
        await house.Access.People.SetDisabledAsync(house.Access.People.Named("bob"), true, House.Me);
        await Assert.ThrowsAsync<AccessException>(() => Come("2", "bob", "office"));
    }
}
