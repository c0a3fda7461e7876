using System.Net;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Kinds.Contract;
using GateChain.Service.Endpoints;

namespace GateChain.Service.Hosting;

/// <summary>How the service is started.</summary>
public sealed record ServiceOptions
{
    /// <summary>
    /// The address it listens at; a port of 0 takes a free one. Default http://127.0.0.1:8480. Addresses that others
    /// reach take a certificate, or a proxy before it.
    /// </summary>
    public string Listen { get; init; } = "http://127.0.0.1:8480";

    /// <summary>The service's own data.</summary>
    public required string DataFolder { get; init; }

    /// <summary>
    /// How a PostgreSQL database is reached that holds what else the file of the data folder does; null for that file.
    /// </summary>
    public string? Database { get; init; }

    /// <summary>
    /// Where other services reach this one that share the database with it, as <c>10.0.0.5:8490</c>; a port of 0 takes
    /// a
    /// free one. Null for a service that has its database alone.
    /// </summary>
    public string? Join { get; init; }

    /// <summary>What people call it among others; the name of the machine when null.</summary>
    public string? Name { get; init; }

    /// <summary>What it can do that others can't.</summary>
    public IReadOnlyList<string> Labels { get; init; } = [];

    /// <summary>Whether it only takes attempts of others, and owns no runs.</summary>
    public bool Worker { get; init; }

    /// <summary>
    /// A certificate in PEM with its key, which other nodes are shown; one made from the key of the secrets when null.
    /// </summary>
    public string? JoinCertificate { get; init; }

    /// <summary>The certificate in PEM of who signs those of nodes; null when all show the same.</summary>
    public string? JoinAuthority { get; init; }

    /// <summary>Where relative paths of chains start from.</summary>
    public required string WorkFolder { get; init; }

    /// <summary>
    /// The address that people open the console at, for links in messages; where it listens when null.
    /// </summary>
    public string? Home { get; init; }

    /// <summary>Folders beside the work folder in which steps may read and write files.</summary>
    public IReadOnlyList<string> Allow { get; init; } = [];

    /// <summary>
    /// Names of environment variables that programs of steps get from the service, beside the usual ones.
    /// </summary>
    public IReadOnlyList<string> Pass { get; init; } = [];

    /// <summary>
    /// The user of the machine that programs of steps run as; the service's own when null. The service has to be root
    /// for it, or to have CAP_SETUID, CAP_SETGID, CAP_CHOWN and CAP_KILL.
    /// </summary>
    public string? ProgramsAs { get; init; }

    /// <summary>
    /// A folder of the machine whose files are secrets; that of systemd's credentials when null, if it has handed over
    /// some.
    /// </summary>
    public string? Secrets { get; init; }

    /// <summary>How big values, runs and decisions may be.</summary>
    public Bounds Bounds { get; init; } = Bounds.Default;

    /// <summary>The folder of kinds of one's own; none when null.</summary>
    public string? Plugins { get; init; }

    /// <summary>A certificate in PEM, read again when it changes; null for plain HTTP.</summary>
    public string? TlsCertificate { get; init; }

    /// <summary>Its key in PEM; in the file of the certificate when null.</summary>
    public string? TlsKey { get; init; }

    /// <summary>
    /// Addresses of proxies before the service: what they say of where a request comes from is taken, and of nobody
    /// else.
    /// </summary>
    public IReadOnlyList<string> BehindProxy { get; init; } = [];

    /// <summary>How many requests one account may make at once; half of them come back each second. Default 2,000.
    /// </summary>
    public int RequestBurst { get; init; } = 2000;

    /// <summary>Whether it listens to this machine only.</summary>
    public bool IsLoopback => RequestGuard.IsLoopback(new Uri(Listen).Host);

    /// <summary>How many calls a second one hook takes; more are answered with 429. Default 5,000.</summary>
    public int HookBurst { get; init; } = 5000;

    /// <summary>Whether numbers for a monitoring system are told at <c>/metrics</c>.</summary>
    public bool Metrics { get; init; }

    /// <summary>The address that metrics and traces are sent to by OTLP over HTTP; null for nowhere.</summary>
    public string? Otlp { get; init; }

    /// <summary>
    /// Where it is told by OpenLineage which data runs read and write: an address, or the path of a file; null for
    /// nowhere.
    /// </summary>
    public string? Lineage { get; init; }

    /// <summary>The namespace of chains there. Default gatechain.</summary>
    public string LineageNamespace { get; init; } = "gatechain";

    /// <summary>Whether log lines go to the standard error output too.</summary>
    public bool LogToConsole { get; init; } = true;

    /// <summary>What is wrong with the options, all at once; empty when nothing is.</summary>
    public IReadOnlyList<string> Check()
    {
        var wrong = new List<string>();
        if (!Uri.TryCreate(Listen, UriKind.Absolute, out var uri) || uri.Scheme is not ("http" or "https"))
        {
            wrong.Add($"“{Listen}” is not an address such as http://127.0.0.1:8480");
        }
        else
        {
            if (uri.Scheme == "https" && TlsCertificate is null)
                wrong.Add("https takes a certificate: --tls-certificate FILE");
            if (uri.Scheme == "http" && TlsCertificate is not null)
                wrong.Add($"with a certificate it listens at an https address, and “{Listen}” is none");
            if (!IsLoopback && TlsCertificate is null && BehindProxy.Count == 0)
            {
                wrong.Add(
                    $"“{uri.Host}” is reached by others: passwords would cross the network in the clear. Give a "
                        + "certificate (--tls-certificate), or the address of the proxy before it (--behind-proxy)"
                );
            }
            if (IPAddress.TryParse(uri.Host.Trim('[', ']'), out var ip) && Home is null)
            {
                if (ip.Equals(IPAddress.Any) || ip.Equals(IPAddress.IPv6Any))
                    wrong.Add("say by which address people open it: --home https://gatechain.larkmoor.example");
            }
        }
        if (Otlp is not null && !(Uri.TryCreate(Otlp, UriKind.Absolute, out var to) && to.Scheme is "http" or "https"))
            wrong.Add($"“{Otlp}” is not an address such as http://collector:4318");
        wrong.AddRange(Joining.Check(this));
        wrong.AddRange(
            BehindProxy.Where(p => !IPAddress.TryParse(p, out _)).Select(p => $"“{p}” is no address of a proxy")
        );
        wrong.AddRange(
            new[] { TlsCertificate, TlsKey }
                .OfType<string>()
                .Where(f => !File.Exists(f))
                .Select(f => $"the file {f} is not there")
        );
        if (!Directory.Exists(WorkFolder))
            wrong.Add($"the work folder {WorkFolder} is not there");
        foreach (var folder in Allow.Where(f => !Directory.Exists(f)))
            wrong.Add($"the allowed folder {folder} is not there");
        if (Secrets is not null)
        {
            if (!Directory.Exists(Secrets))
                wrong.Add($"the folder of secrets {Secrets} is not there");
            foreach (var open in Allow.Prepend(WorkFolder).Where(f => IsWithin(Secrets, f)))
                wrong.Add($"the folder of secrets {Secrets} lies in {open}, which steps may read");
        }
        if (ProgramsAs is not null)
        {
            var problem = ProgramUser is { } user ? user.Problem() : $"there is no user “{ProgramsAs}” on this machine";
            if (problem is not null)
                wrong.Add(problem);
        }
        if (Plugins is not null && !Directory.Exists(Plugins))
            wrong.Add($"the plug-in folder {Plugins} is not there");
        if (Home is not null && !Uri.TryCreate(Home, UriKind.Absolute, out _))
            wrong.Add($"“{Home}” is not an address such as https://gatechain.larkmoor.example");
        return wrong;
    }

    static bool IsWithin(string path, string folder) =>
        (Path.GetFullPath(path).TrimEnd('/') + "/").StartsWith(
            Path.GetFullPath(folder).TrimEnd('/') + "/",
            StringComparison.Ordinal
        );

    // Beside the service's own data, which is closed to that user.
    ProgramUser? ProgramUser =>
        ProgramsAs is null
            ? null
            : ProgramUser.Find(ProgramsAs, Path.GetFullPath(DataFolder).TrimEnd('/') + "-programs");

    internal EngineOptions ToEngine() =>
        new(Path.GetFullPath(DataFolder), Path.GetFullPath(WorkFolder))
        {
            Folders = new([Path.GetFullPath(WorkFolder), .. Allow.Select(Path.GetFullPath)])
            {
                Forbidden = Path.GetFullPath(DataFolder),
            },
            Bounds = Bounds,
            Lineage = Lineage is null ? null : new(Lineage, LineageNamespace, HealthEndpoint.Version),
            ProgramsAs = ProgramUser,
            SecretFiles = Secrets ?? Environment.GetEnvironmentVariable("CREDENTIALS_DIRECTORY"),
            PassedVariables = [.. EngineOptions.UsualVariables, .. Pass],
        };
}
