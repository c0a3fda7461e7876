using System.Globalization;
using System.Net;
using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using System.Text.RegularExpressions;
using GateChain.Access;
using GateChain.Cluster.Hosting;
using GateChain.Engine;
using GateChain.Service.Endpoints;
using GateChain.Storage;

namespace GateChain.Service.Hosting;

/// <summary>A service that shares its database with others: what it takes, and how it joins them.</summary>
static partial class Joining
{
    [GeneratedRegex("^[a-z0-9]([a-z0-9-]{0,38}[a-z0-9])?$")]
    private static partial Regex Names();

    [GeneratedRegex("^[a-z0-9][a-z0-9_-]{0,39}(=[A-Za-z0-9._-]{1,40})?$")]
    private static partial Regex LabelForm();

    static string NameOf(ServiceOptions options) =>
        options.Name ?? Environment.MachineName.Split('.')[0].ToLowerInvariant();

    /// <summary>What is wrong with the options, a sentence each.</summary>
    public static IEnumerable<string> Check(ServiceOptions options)
    {
        if (options.Join is null)
        {
            if (options.Name is not null || options.Labels.Count > 0 || options.Worker)
                yield return "a name, labels and --worker are for a service that shares its database: --join";
            yield break;
        }
        if (options.Database is null)
            yield return "a service that joins others shares a PostgreSQL database with them: --database";
        if (!Names().IsMatch(NameOf(options)))
            yield return $"“{NameOf(options)}” is no name of a node: a to z, digits and -, 40 at most (--name)";
        foreach (var label in options.Labels.Where(l => !LabelForm().IsMatch(l)))
            yield return $"“{label}” is no label: a word such as warehouse, or zone=dmz";
        if (!IPEndPoint.TryParse(options.Join, out var at) || at.Address.Equals(IPAddress.Any))
        {
            yield return $"“{options.Join}” is no address at which other nodes reach this one, such as 10.0.0.5:8490";
            yield break;
        }
        if (options.JoinCertificate is null != options.JoinAuthority is null)
            yield return "--join-certificate and --join-authority are given together";
        foreach (
            var file in new[] { options.JoinCertificate, options.JoinAuthority }
                .OfType<string>()
                .Where(f => !File.Exists(f))
        )
        {
            yield return $"the file {file} is not there";
        }
    }

    /// <summary>The id of this start of the node; null for a service that has its database alone.</summary>
    public static string? NewId(ServiceOptions options) =>
        options.Join is null ? null : ClusterNode.NewId(NameOf(options));

    /// <summary>Where it listens has to be known before it does: others are told.</summary>
    public static ServiceOptions Place(ServiceOptions options)
    {
        if (options.Join is null || new Uri(options.Listen) is not { Port: 0 } listen)
            return options;
        using var free = new System.Net.Sockets.TcpListener(IPAddress.Loopback, 0);
        free.Start();
        var port = ((IPEndPoint)free.LocalEndpoint).Port.ToString(CultureInfo.InvariantCulture);
        return options with { Listen = $"{listen.Scheme}://{listen.Host}:{port}" };
    }

    // As seen from other machines.
    static string AddressOf(ServiceOptions options)
    {
        var listen = new Uri(options.Listen);
        var isAnywhere =
            IPAddress.TryParse(listen.Host.Trim('[', ']'), out var ip)
            && (ip.Equals(IPAddress.Any) || ip.Equals(IPAddress.IPv6Any));
        var host = isAnywhere ? IPEndPoint.Parse(options.Join!).Address.ToString() : listen.Host;
        return $"{listen.Scheme}://{host}:{listen.Port}";
    }

    /// <summary>Adds the node.</summary>
    public static void Add(
        IServiceCollection services,
        ServiceOptions options,
        ISharedStore store,
        ISecretCipher cipher,
        string id
    )
    {
        var settings = new NodeSettings(NameOf(options), IPEndPoint.Parse(options.Join!))
        {
            Labels = options.Labels,
            OwnsRuns = !options.Worker,
            Version = HealthEndpoint.Version,
            Certificate = options.JoinCertificate is { } own
                ? Read(own, withKey: true)
                : SharedCertificate.Of(SecretCipher.Derive(cipher, "nodes")),
            Authority = options.JoinAuthority is { } authority ? Read(authority, withKey: false) : null,
        };
        services
            .AddSingleton(store)
            .AddSingleton(s => new GuardProcess(id, s.GetRequiredService<ILogger<GuardProcess>>()))
            .AddSingleton(s => new ClusterNode(id, settings, store, s.GetRequiredService<ILoggerFactory>()));
    }

    static X509Certificate2 Read(string file, bool withKey)
    {
        try
        {
            if (!withKey)
                return X509CertificateLoader.LoadCertificateFromFile(file);
            using var pem = X509Certificate2.CreateFromPemFile(file);
            return X509CertificateLoader.LoadPkcs12(pem.Export(X509ContentType.Pkcs12), null);
        }
        catch (Exception e) when (e is CryptographicException or IOException or UnauthorizedAccessException)
        {
            throw new StorageException($"the certificate {file} can't be used: {e.Message}", e);
        }
    }

    // What can be read with one key only: a node with another one would find all secrets unreadable.
    const string KeyProof = "node-key";

    /// <summary>Joins the others.</summary>
    /// <exception cref="StorageException">Its name is taken, or it has another key than they.</exception>
    public static async Task StartAsync(IServiceProvider services, ServiceOptions options)
    {
        var engine = services.GetRequiredService<ChainEngine>();
        var access = services.GetRequiredService<AccessServices>();
        await access.ProveKeyAsync(KeyProof);
        engine.Node!.Changed += async parts =>
        {
            if (parts.Contains(StoredPart.Access))
                await access.ReloadAsync();
        };
        access.Sealer.IsMine = () => engine.Node.Leads;
        var guard = services.GetRequiredService<GuardProcess>();
        guard.Beat();
        engine.Node.Renewed += guard.Beat;
        // Whoever has the lock of the data folder knows that who had it before is gone.
        var file = Path.Combine(options.DataFolder, "node");
        var former = File.Exists(file) ? (await File.ReadAllTextAsync(file)).Trim() : null;
        var node = services.GetRequiredService<ClusterNode>();
        await node.StartAsync(engine, AddressOf(options), former);
        await File.WriteAllTextAsync(file, node.Shared.Link.Id);
    }
}
