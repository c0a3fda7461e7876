using System.CommandLine;
using GateChain.Service.Hosting;
using GateChain.Storage;

namespace GateChain.Cli.Commands;

/// <summary><c>gatechain serve</c></summary>
static class ServeCommand
{
    static readonly Option<string> Listen = new("--listen")
    {
        Description =
            "Address to listen at; port 0 takes a free one. One that others reach takes https, or a proxy before it",
        DefaultValueFactory = _ => "http://127.0.0.1:8480",
    };
    static readonly Option<string> Data = new("--data")
    {
        Description = "Folder of the service's own data",
        DefaultValueFactory = _ => "gatechain-data",
    };
    static readonly Option<string?> Database = new("--database")
    {
        Description =
            "How a PostgreSQL database is reached that takes the place of the file in the data folder, for example "
            + $"\"Host=db;Database=gatechain;Username=gatechain;Passfile=/etc/gatechain/pg\"; {Stores.Variable} when "
            + "absent",
    };
    static readonly Option<string?> Join = new("--join")
    {
        Description =
            "Shares the database with other services, which reach this one at this address: 10.0.0.5:8490, or "
            + "127.0.0.1:0 for a free port of this machine",
    };
    static readonly Option<string?> Name = new("--name")
    {
        Description = "What this node is called among those that share the database; the machine's name when absent",
    };
    static readonly Option<string[]> Label = new("--label")
    {
        Description =
            "What this node can do that others can't, for steps with a place: warehouse, zone=dmz; again for more",
    };
    static readonly Option<bool> Worker = new("--worker")
    {
        Description = "Only takes attempts of steps whose place it has; runs are others' business",
    };
    static readonly Option<string?> JoinCertificate = new("--join-certificate")
    {
        Description =
            "Certificate in PEM with its key, which this node shows others; one made from the key that all nodes have "
            + "when absent",
    };
    static readonly Option<string?> JoinAuthority = new("--join-authority")
    {
        Description = "Certificate in PEM of who signs those of the nodes",
    };
    static readonly Option<string> Work = new("--work")
    {
        Description = "Folder that relative paths in chains start from",
        DefaultValueFactory = _ => ".",
    };

    static readonly Option<string[]> Allow = new("--allow")
    {
        Description =
            "A further folder in which steps may read and write files, beside the work folder; again for more",
    };
    static readonly Option<string[]> Pass = new("--pass")
    {
        Description =
            "A variable of this environment that programs of steps get too, beside PATH, HOME, LANG, "
            + "TZ and the like; again for more",
    };
    static readonly Option<string?> ProgramsAs = new("--programs-as")
    {
        Description =
            "User of this machine that programs of steps run as, away from the service's data; needs root. Without it "
            + "they run as the service's own user",
    };
    static readonly Option<string?> Secrets = new("--secrets")
    {
        Description =
            "Folder whose files are secrets, secret:file:NAME; systemd's credentials ($CREDENTIALS_DIRECTORY) when "
            + "absent",
    };
    static readonly Option<string[]> Bound = new("--bound")
    {
        Description =
            "How big or long something may be, for example value=32MiB: "
            + $"{string.Join(", ", BoundNames.All.Select(b => b.Name))}; again for more",
    };
    static readonly Option<string?> Home = new("--home")
    {
        Description = "Address that people open the console at, for links in messages; where it listens when absent",
    };

    static readonly Option<string?> Certificate = new("--tls-certificate")
    {
        Description = "Certificate in PEM for an https address; read again when the file changes",
    };
    static readonly Option<string?> Key = new("--tls-key")
    {
        Description = "Its key in PEM; in the file of the certificate when absent",
    };
    static readonly Option<string[]> Proxy = new("--behind-proxy")
    {
        Description =
            "Address of a proxy before the service: only what it says of where requests come from is believed; "
            + "again for more",
    };

    static readonly Option<bool> Metrics = new("--metrics")
    {
        Description = "Tells numbers for a monitoring system at /metrics, as Prometheus reads them",
    };
    static readonly Option<string?> Otlp = new("--otlp")
    {
        Description = "Address that metrics and traces are sent to by OTLP over HTTP, such as http://collector:4318",
    };

    static readonly Option<string?> Lineage = new("--lineage")
    {
        Description =
            "Where it is told by OpenLineage which data runs have read and written: an address such as "
            + "http://lineage:5000/api/v1/lineage, which is shown the secret lineage-token, or a file",
    };
    static readonly Option<string> LineageNamespace = new("--lineage-namespace")
    {
        Description = "The namespace of chains there",
        DefaultValueFactory = _ => "gatechain",
    };

    public static Command Create()
    {
        var command = new Command("serve", "Runs the service: API, console, and the runs themselves")
        {
            Listen,
            Data,
            Database,
            Join,
            Name,
            Label,
            Worker,
            JoinCertificate,
            JoinAuthority,
            Work,
            Allow,
            Pass,
            ProgramsAs,
            Secrets,
            Bound,
            Home,
            Certificate,
            Key,
            Proxy,
            Metrics,
            Otlp,
            Lineage,
            LineageNamespace,
            ServeSettings.Config,
        };
        command.SetAction(
            async (given, _) =>
            {
                ParseResult parsed;
                try
                {
                    var line = ServeSettings.Line(ServeSettings.Of(given));
                    parsed = new RootCommand { command }.Parse(line);
                }
                catch (FormatException e)
                {
                    Console.Error.WriteLine(e.Message);
                    return ExitCodes.Usage;
                }
                if (parsed.Errors.Count > 0)
                {
                    foreach (var error in parsed.Errors)
                        Console.Error.WriteLine(error.Message);
                    return ExitCodes.Usage;
                }
                var (bounds, misfits) = BoundNames.Read(parsed.GetValue(Bound) ?? []);
                if (misfits.Count > 0)
                {
                    foreach (var line in misfits)
                        Console.Error.WriteLine(line);
                    return ExitCodes.Usage;
                }
                var options = new ServiceOptions
                {
                    Bounds = bounds,
                    Listen = parsed.GetValue(Listen)!,
                    DataFolder = parsed.GetValue(Data)!,
                    Database = parsed.GetValue(Database),
                    Join = parsed.GetValue(Join),
                    Name = parsed.GetValue(Name),
                    Labels = parsed.GetValue(Label) ?? [],
                    Worker = parsed.GetValue(Worker),
                    JoinCertificate = parsed.GetValue(JoinCertificate),
                    JoinAuthority = parsed.GetValue(JoinAuthority),
                    WorkFolder = parsed.GetValue(Work)!,
                    Allow = parsed.GetValue(Allow) ?? [],
                    Pass = parsed.GetValue(Pass) ?? [],
                    ProgramsAs = parsed.GetValue(ProgramsAs),
                    Secrets = parsed.GetValue(Secrets),
                    Home = parsed.GetValue(Home),
                    Plugins = PluginFolder.Path,
                    TlsCertificate = parsed.GetValue(Certificate),
                    TlsKey = parsed.GetValue(Key),
                    BehindProxy = parsed.GetValue(Proxy) ?? [],
                    Metrics = parsed.GetValue(Metrics),
                    Otlp = parsed.GetValue(Otlp),
                    Lineage = parsed.GetValue(Lineage),
                    LineageNamespace = parsed.GetValue(LineageNamespace)!,
                };
                if (options.Check() is { Count: > 0 } wrong)
                {
                    foreach (var line in wrong)
                        Console.Error.WriteLine(line);
                    return ExitCodes.Usage;
                }
                try
                {
                    await using var service = await GateChainService.StartAsync(options);
                    Console.WriteLine($"Gate Chain listens at {service.Address}");
                    if (service.FirstLink is { } link)
                    {
                        Console.WriteLine(
                            $"There are no accounts yet. Make the first one within 24 hours, at\n  {link}\n"
                                + "Until then nobody is let in."
                        );
                    }
                    if (await service.WaitAsync() is not { } why)
                        return ExitCodes.Succeeded;
                    Console.Error.WriteLine(why);
                    return ExitCodes.NoService;
                }
                catch (StorageException e)
                {
                    Console.Error.WriteLine(e.Message);
                    return ExitCodes.NoService;
                }
                catch (Exception e) when (e is IOException or System.Net.Sockets.SocketException)
                {
                    Console.Error.WriteLine($"can't listen at {options.Listen}: {(e.InnerException ?? e).Message}");
                    return ExitCodes.NoService;
                }
            }
        );
        return command;
    }
}
