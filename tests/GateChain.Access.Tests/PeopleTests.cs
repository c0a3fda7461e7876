using GateChain.Access.Basics;
using GateChain.Access.People;
using OtpNet;

namespace GateChain.Access.Tests;

/// <summary>Accounts, passwords, links, codes: who gets in, and who does not.</summary>
public class PeopleTests
{
    [Theory]
    [InlineData("short", "12 characters")]
    [InlineData("aaaaaaaaaaaaaaaa", "few different")]
    [InlineData("password1234", "tried first")]
    [InlineData("qwertyqwerty", "tried first")]
    [InlineData("Dragon!!!!!!!!", "tried first")]
    [InlineData("ann-is-the-best", "name")]
    [InlineData("cows give milk daily", null)]
    [InlineData("短い文でも覚えやすいですよ！", null)]
    public void PasswordsThatAreGuessedAreRefused(string password, string? because)
    {
        var problem = PasswordRules.Problem(password, "ann");
        if (because is null)
            Assert.Null(problem);
        else
            Assert.Contains(because, problem, StringComparison.Ordinal);
    }

    [Fact]
    public async Task TheFirstAccountIsAnAdminAndSomeAdminStays()
    {
        await using var house = await House.NewAsync();
        await Assert.ThrowsAsync<AccessException>(() => house.AddAsync("bob", "operator"));
        Assert.False(house.Access.People.AreThere);
        var ann = await house.AddAsync("ann", "admin");
        var bob = await house.AddAsync("bob", "operator:sales");
        Func<Task>[] lockouts =
        [
            () => house.Access.People.RemoveAsync(ann, House.Me),
            () => house.Access.People.SetDisabledAsync(ann, true, House.Me),
            () => house.Access.People.SetGrantsAsync(ann, House.Grants("viewer"), House.Me),
        ];
        foreach (var lockout in lockouts)
            Assert.Contains("only admin", (await Assert.ThrowsAsync<AccessException>(lockout)).Message);
        await house.Access.People.SetGrantsAsync(bob, House.Grants("admin"), House.Me);
        await house.Access.People.RemoveAsync(ann, House.Me);
        Assert.Equal(["bob"], house.Access.People.All.Select(a => a.Name));
        Assert.Equal(
            "add account ann, make link account ann".Split(", ")[0],
            (await house.AuditAsync())[0]["test: ".Length..]
        );
    }

    [Fact]
    public async Task ANameIsTakenWhateverItsCase()
    {
        await using var house = await House.NewAsync();
        await house.AddAsync("ann", "admin");
        Assert.Contains(
            "taken",
            (await Assert.ThrowsAsync<AccessException>(() => house.AddAsync("ANN", "viewer"))).Message
        );
        Assert.NotNull((await house.SignInAsync("Ann", House.Password)).Account);
    }

    [Fact]
    public async Task ALinkCountsOnceAndForADay()
    {
        await using var house = await House.NewAsync();
        await house.AddAsync("ann", "admin");
        var (_, link) = await house.Access.People.AddAsync("bob", null, House.Grants("viewer"), House.Me);
        // A password that is not taken does not use it up.
        await Assert.ThrowsAsync<AccessException>(() => house.Access.People.SetByLinkAsync(link, "short", null));
        await house.Access.People.SetByLinkAsync(link, House.Password, null);
        await Assert.ThrowsAsync<AccessException>(() =>
            house.Access.People.SetByLinkAsync(link, "another good sentence", null)
        );
        var bob = house.Access.People.Named("bob");
        var first = await house.Access.People.ResetAsync(bob, House.Me);
        var second = await house.Access.People.ResetAsync(bob, House.Me);
        await Assert.ThrowsAsync<AccessException>(() => house.Access.People.OfLinkAsync(first));
        house.Time.Advance(TimeSpan.FromHours(24));
        await Assert.ThrowsAsync<AccessException>(() => house.Access.People.OfLinkAsync(second));
        // Of many who use one at once, one sets the password.
        var third = await house.Access.People.ResetAsync(bob, House.Me);
        var uses = await Task.WhenAll(
            Enumerable
                .Range(0, 8)
                .Select(async i =>
                {
                    try
                    {
                        await house.Access.People.SetByLinkAsync(third, $"sentence number {i} of them", null);
                        return 1;
                    }
                    catch (AccessException)
                    {
                        return 0;
                    }
                })
        );
        Assert.Equal(1, uses.Sum());
    }

    [Fact]
    public async Task WhoGuessesIsSlowedAndNobodyIsLockedOutForGood()
    {
        await using var house = await House.NewAsync();
        await house.AddAsync("ann", "admin");
        for (var i = 0; i < 5; i++)
            Assert.Equal("name or password is wrong", (await house.SignInAsync("ann", "wrong")).Sentence);
        // Now also the right one waits, and an unknown name is treated in the same way.
        for (var i = 0; i < 5; i++)
            await house.SignInAsync("nobody-here", "wrong");
        Assert.Equal(
            (await house.SignInAsync("ann", House.Password)).Pause,
            (await house.SignInAsync("nobody-here", "wrong")).Pause
        );
        house.Time.Advance(TimeSpan.FromSeconds(2));
        Assert.NotNull((await house.SignInAsync("ann", House.Password)).Account);
        // The address is slowed too, whichever name is tried; another one is not.
        for (var i = 0; i < 12; i++)
        {
            await house.SignInAsync($"name-{i}", "wrong");
            house.Time.Advance(TimeSpan.FromSeconds(1));
        }
        await house.SignInAsync("one-more", "wrong");
        Assert.NotNull((await house.SignInAsync("ann", House.Password)).Pause);
        Assert.NotNull((await house.SignInAsync("ann", House.Password, from: "10.0.0.10")).Account);
        house.Time.Advance(TimeSpan.FromMinutes(15));
        Assert.NotNull((await house.SignInAsync("ann", House.Password)).Account);
    }

    [Fact]
    public async Task ACodeCountsOnceAlsoAfterARestartAndInARace()
    {
        await using var house = await House.NewAsync();
        var ann = await house.AddAsync("ann", "admin");
        var (secret, address) = AccountService.BeginCodes(ann);
        Assert.StartsWith("otpauth://totp/", address, StringComparison.Ordinal);
        string Code() => new Totp(Base32Encoding.ToBytes(secret)).ComputeTotp(house.Time.GetUtcNow().UtcDateTime);
        await Assert.ThrowsAsync<AccessException>(() =>
            house.Access.People.SetCodesAsync(ann, secret, "000000", House.Me)
        );
        var recovery = await house.Access.People.SetCodesAsync(ann, secret, Code(), House.Me);
        Assert.Equal(10, recovery.Distinct().Count());

        Assert.True((await house.SignInAsync("ann", House.Password)) is { Account: null, NeedsCode: true });
        // A wrong password is told before anything about codes.
        Assert.False((await house.SignInAsync("ann", "wrong", Code())).NeedsCode);
        // The one that set them up counts no more.
        Assert.Null((await house.SignInAsync("ann", House.Password, Code())).Account);
        house.Time.Advance(TimeSpan.FromSeconds(30));
        var codes = await Task.WhenAll(
            Enumerable.Range(0, 4).Select(_ => house.SignInAsync("ann", House.Password, Code()))
        );
        Assert.Single(codes, c => c.Account is not null);
        await house.RestartAsync();
        Assert.Null((await house.SignInAsync("ann", House.Password, Code())).Account);

        Assert.NotNull((await house.SignInAsync("ann", House.Password, recovery[3].ToUpperInvariant())).Account);
        Assert.Null((await house.SignInAsync("ann", House.Password, recovery[3])).Account);
        house.Time.Advance(TimeSpan.FromMinutes(20));
        Assert.NotNull((await house.SignInAsync("ann", House.Password, Code())).Account);
    }

    [Fact]
    public async Task WhoseRoleNeedsCodesMayDoNothingWithoutThem()
    {
        await using var house = await House.NewAsync();
        var ann = await house.AddAsync("ann", "admin");
        await house.Access.Settings.SetSignInAsync(new(["admin"], null), House.Me);
        var secret = await house.Access.Sessions.BeginAsync(ann, "10.0.0.9", "test", "password");
        Assert.Empty(house.Access.Sessions.Find(secret)!.Value.Rights.Grants);
        var (key, _) = AccountService.BeginCodes(ann);
        var code = new Totp(Base32Encoding.ToBytes(key)).ComputeTotp(house.Time.GetUtcNow().UtcDateTime);
        await house.Access.People.SetCodesAsync(ann, key, code, House.Me);
        Assert.NotEmpty(house.Access.Sessions.Find(secret)!.Value.Rights.Grants);
    }
}
