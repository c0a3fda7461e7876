using System.Text;
using System.Text.Json;
using GateChain.Core.Identity;
using GateChain.Engine.Secrets;

namespace GateChain.Engine.Tests;

/// <summary>Secrets are hidden in every form in which servers and programs say them again.</summary>
public sealed class SecretMaskTests
{
    const string Secret = "p/a\"ss w+ö&rd<>";

    public static TheoryData<string, string> Forms =>
        new()
        {
            { "plain", Secret },
            { "address", Uri.EscapeDataString(Secret) },
            { "form", System.Net.WebUtility.UrlEncode(Secret) },
            { "HTML", System.Net.WebUtility.HtmlEncode(Secret) },
            { "JSON", JsonSerializer.Serialize(Secret)[1..^1] },
            { "JSON by others", Secret.Replace("\"", "\\\"", StringComparison.Ordinal) },
            { "base64", Convert.ToBase64String(Encoding.UTF8.GetBytes(Secret)) },
        };

    [Theory]
    [MemberData(nameof(Forms))]
    public void EveryFormIsHidden(string name, string form)
    {
        var text = new SecretMask([Secret]).Text($"before {form} after");
        Assert.True(
            text.StartsWith("before ", StringComparison.Ordinal) && text.EndsWith(" after", StringComparison.Ordinal),
            name
        );
        Assert.DoesNotContain(form, text, StringComparison.Ordinal);
        Assert.Contains("••••••", text, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("u:")]
    [InlineData("me:")]
    [InlineData("office:")]
    [InlineData("larkmoor-office:")]
    public void WhatDecodesToTheSecretIsHiddenBehindAnyUser(string user)
    {
        const string Password = "WarehousePassword1";
        var masked = new SecretMask([Password]).Text(Convert.ToBase64String(Encoding.UTF8.GetBytes(user + Password)));
        Assert.Contains("••••••", masked, StringComparison.Ordinal);
        // What is left of it says at most the edges, where the secret mixes with what stands beside it.
        var rest = masked.Replace("••••••", "", StringComparison.Ordinal);
        Assert.True(rest.Length <= (user.Length + 5) * 4 / 3 + 4, masked);
    }

    [Fact]
    public void ShortOnesAreNotTakenForSecrets() => Assert.Equal("the data", new SecretMask(["data"]).Text("the data"));

    [Fact]
    public async Task WhatIsLearnedWhileWorkingIsHiddenTooAndOnlyTheLatestAreKept()
    {
        await using var house = new House();
        var secrets = house.Engine.Secrets;
        for (var i = 0; i < 300; i++)
            secrets.Hide($"token-of-an-hour-{i:000}");
        Assert.Equal("say ••••••", secrets.Mask.Text("say token-of-an-hour-299"));
        Assert.Equal("say token-of-an-hour-000", secrets.Mask.Text("say token-of-an-hour-000"));
        await secrets.SetAsync("db", "another-secret", Area.Root, Ann);
        Assert.Equal("•••••• ••••••", secrets.Mask.Text("token-of-an-hour-299 another-secret"));
        Assert.True(secrets.IsSet("db", Area.Root));
        Assert.False(secrets.IsSet("nobody", Area.Root));
    }
}
