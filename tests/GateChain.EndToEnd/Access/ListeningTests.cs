using System.Net.Http.Json;
using System.Net.Security;
using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using GateChain.Client;
using GateChain.EndToEnd.House;

namespace GateChain.EndToEnd.Access;

/// <summary>A service that others reach: TLS, a proxy before it, and the first start.</summary>
public sealed class ListeningTests
{
    static string Pem(string name)
    {
        using var key = ECDsa.Create(ECCurve.NamedCurves.nistP256);
        var request = new CertificateRequest($"CN={name}", key, HashAlgorithmName.SHA256);
        var names = new SubjectAlternativeNameBuilder();
        names.AddIpAddress(System.Net.IPAddress.Loopback);
        request.CertificateExtensions.Add(names.Build());
        using var certificate = request.CreateSelfSigned(
            DateTimeOffset.UtcNow.AddDays(-1),
            DateTimeOffset.UtcNow.AddDays(1)
        );
        return certificate.ExportCertificatePem() + "\n" + key.ExportPkcs8PrivateKeyPem();
    }

    [Fact]
    public async Task AnOpenAddressTakesTlsOrAProxy()
    {
        using var folder = new TempFolder();
        Directory.CreateDirectory(folder["work"]);
        async Task<string> Serve(params string[] options)
        {
            var (exit, _, err) = await Place.RunAsync(
                Place.Program,
                folder["work"],
                null,
                ["serve", "--data", folder["data"], "--work", folder["work"], .. options]
            );
            Assert.Equal(2, exit);
            return err;
        }
        Assert.Contains(
            "passwords would cross the network in the clear",
            await Serve("--listen", "http://10.1.2.3:8480")
        );
        Assert.Contains("https takes a certificate", await Serve("--listen", "https://10.1.2.3:8480"));
        Assert.Contains("--home", await Serve("--listen", "http://0.0.0.0:8480", "--behind-proxy", "10.0.0.1"));
        Assert.Contains("no address of a proxy", await Serve("--behind-proxy", "proxy.larkmoor.example"));
        Assert.Contains(
            "is not there",
            await Serve("--listen", "https://127.0.0.1:0", "--tls-certificate", "none.pem")
        );
    }

    [Fact]
    public async Task TheCertificateIsReadAgainWhenItChanges()
    {
        using var folder = new TempFolder();
        var file = folder["gatechain.pem"];
        await File.WriteAllTextAsync(file, Pem("first"));
        string? seen = null;
        using var handler = new SocketsHttpHandler
        {
            PooledConnectionLifetime = TimeSpan.Zero,
            SslOptions = new SslClientAuthenticationOptions
            {
                RemoteCertificateValidationCallback = (_, certificate, _, _) =>
                {
                    seen = certificate!.Subject;
                    // Nobody signs those of a test; by its name it is known.
                    return seen is "CN=first" or "CN=second";
                },
            },
        };
        await using var service = new ServiceProcess(folder["data"], folder["work"]);
        var lines = await service.StartAsync("https://127.0.0.1:0", "--tls-certificate", file);
        using var http = new HttpClient(handler) { BaseAddress = service.Address };
        using var answer = await http.GetAsync("/api/session");
        Assert.Equal("CN=first", seen);
        Assert.Contains("max-age", answer.Headers.GetValues("Strict-Transport-Security").Single());
        await File.WriteAllTextAsync(file, "half written");
        File.SetLastWriteTimeUtc(file, DateTime.UtcNow.AddSeconds(5));
        (await http.GetAsync("/api/session")).Dispose();
        Assert.Equal("CN=first", seen);
        await File.WriteAllTextAsync(file, Pem("second"));
        File.SetLastWriteTimeUtc(file, DateTime.UtcNow.AddSeconds(10));
        for (var i = 0; seen != "CN=second" && i < 300; i++)
        {
            await Task.Delay(50);
            (await http.GetAsync("/api/session")).Dispose();
        }
        Assert.Equal("CN=second", seen);
    }

    [Fact]
    public async Task BehindAProxyNobodyComesInBeforeTheFirstAccountAndSourcesAreThoseItNames()
    {
        using var folder = new TempFolder();
        await using var service = new ServiceProcess(folder["data"], folder["work"]);
        var lines = await service.StartAsync(
            "http://127.0.0.1:0",
            "--behind-proxy",
            "127.0.0.1",
            "--home",
            "https://gatechain.larkmoor.example"
        );
        var link = lines.Single(l => l.Contains("/welcome#")).Trim();
        Assert.StartsWith("https://gatechain.larkmoor.example/welcome#", link);
        using var http = new HttpClient { BaseAddress = service.Address };
        http.DefaultRequestHeaders.Add("X-Forwarded-For", "203.0.113.7");
        http.DefaultRequestHeaders.Add("X-Forwarded-Proto", "https");
        http.DefaultRequestHeaders.Add("X-Forwarded-Host", "gatechain.larkmoor.example");
        http.DefaultRequestHeaders.Add("X-Gatechain", "active");
        Assert.Contains("first-start", await http.GetStringAsync("/api/session"));
        Assert.Equal(401, (await Team.AskAsync(http, "GET", "/api/chains")).Status);
        Assert.Equal(
            401,
            (await Team.AskAsync(http, "POST", "/api/people", new PersonRequest("eve", ["admin"]))).Status
        );
        var secret = link[(link.IndexOf('#') + 1)..];
        Assert.Equal(
            404,
            (
                await Team.AskAsync(
                    http,
                    "POST",
                    "/api/links/password",
                    new LinkPasswordRequest(secret[..^1], Team.Password, "eve")
                )
            ).Status
        );
        Assert.Equal(
            204,
            (
                await Team.AskAsync(
                    http,
                    "POST",
                    "/api/links/password",
                    new LinkPasswordRequest(secret, Team.Password, "ann")
                )
            ).Status
        );
        Assert.Equal(
            404,
            (
                await Team.AskAsync(
                    http,
                    "POST",
                    "/api/links/password",
                    new LinkPasswordRequest(secret, Team.Password, "eve")
                )
            ).Status
        );
        using var signedIn = await http.PostAsJsonAsync("/api/session", new SignInRequest("ann", Team.Password));
        Assert.True(signedIn.IsSuccessStatusCode);
        var cookie = signedIn.Headers.GetValues("Set-Cookie").Single();
        // The browser speaks https with the proxy: the cookie is held to that.
        Assert.StartsWith("__Host-gatechain=", cookie);
        Assert.Contains("secure", cookie, StringComparison.OrdinalIgnoreCase);
        using var read = new HttpRequestMessage(HttpMethod.Get, "/api/audit");
        read.Headers.Add("Cookie", cookie.Split(';')[0]);
        using var audit = await http.SendAsync(read);
        Assert.Contains("203.0.113.7", await audit.Content.ReadAsStringAsync());
    }
}
