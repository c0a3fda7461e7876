using System.Net;
using System.Net.Sockets;
using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using GateChain.Cluster.Calls;
using GateChain.Cluster.Membership;
using GateChain.Cluster.Slots;
using GateChain.Engine;
using GateChain.Engine.Nodes;
using GateChain.Engine.Sharing;
using GateChain.Storage;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;
using Orleans.Configuration;
using Orleans.Connections.Security;

namespace GateChain.Cluster.Hosting;

/// <summary>
/// This service as a node among others: a silo of Orleans, which knows who is there and carries questions, and what the
/// engine needs to share its runs. What has to be right whatever the silo believes is in the store: whose a run is.
/// </summary>
/// <remarks>Source: Microsoft Orleans documentation, cluster management and grain services.</remarks>
public sealed class ClusterNode : IAsyncDisposable
{
    readonly NodeSettings _settings;
    readonly ISharedStore _store;
    readonly ILoggerFactory _logs;
    readonly NodeLink _link;
    readonly SlotDesk _desk;
    ClusterSlots? _slots;
    readonly CancellationTokenSource _ending = new();
    Task _telling = Task.CompletedTask;
    IHost? _host;
    Func<IEnumerable<string>> _lanes = () => [];

    /// <param name="id">What the store was opened with: <see cref="NewId"/>.</param>
    /// <param name="settings">How it is among others.</param>
    /// <param name="store">What the nodes share.</param>
    /// <param name="logs">For what the silo has to say.</param>
    public ClusterNode(string id, NodeSettings settings, ISharedStore store, ILoggerFactory logs)
    {
        (_settings, _store, _logs) = (settings, store, logs);
        var answers = new NodeAnswers();
        _link = new(id, answers);
        _desk = new(store, _link, logs.CreateLogger<SlotDesk>());
        Shared = new(store, _link, granted =>
            _slots = new(
                id,
                () => _host!.Services.GetRequiredService<IGrainFactory>(),
                () => _lanes(),
                granted,
                logs.CreateLogger<ClusterSlots>()
            )
        )
        {
            OwnsRuns = settings.OwnsRuns,
            Answers = answers,
        };
    }

    /// <summary>What tells this start of a node from others.</summary>
    public static string NewId(string name) => $"{name}.{RandomNumberGenerator.GetHexString(8, lowercase: true)}";

    /// <summary>
    /// Ends, with why in a sentence, when this node can't be one of them any more: the others have agreed that it is
    /// gone, because it did not answer for a while. It has to be started again.
    /// </summary>
    public Task<string> Expelled => _expelled.Task;

    readonly TaskCompletionSource<string> _expelled = new(TaskCreationOptions.RunContinuationsAsynchronously);

    // A silo that is told so would end the process on the spot.
    sealed class Expulsion(TaskCompletionSource<string> told) : IFatalErrorHandler
    {
        public bool IsUnexpected(Exception exception) => exception is not OperationCanceledException;

        public void OnFatalException(object? sender, string? context, Exception? exception) =>
            told.TrySetResult(
                "the other nodes have taken this one for gone, since it did not answer for a while; they go on with "
                    + $"its runs. Start it again ({context})"
            );
    }

    /// <summary>What an engine needs to share its runs.</summary>
    public Shared Shared { get; }

    /// <summary>
    /// Joins the others. Before the engine starts: who is there has to be known by then.
    /// </summary>
    /// <param name="engine">Whose node it is.</param>
    /// <param name="address">Where people reach this node.</param>
    /// <param name="former">The id that it had before, when it is known to be gone; null for none.</param>
    /// <exception cref="StorageException">Its name is taken, or the store can't be written.</exception>
    public async Task StartAsync(ChainEngine engine, string address, string? former)
    {
        if (former is not null)
            await _store.Nodes.BuryAsync(former).ConfigureAwait(false);
        _lanes = () => engine.Workspace.Lanes.Keys;
        _desk.Widths = lane => engine.Workspace.Lanes.GetValueOrDefault(lane, 1);
        await _store
            .Nodes.JoinAsync(
                new(
                    _link.Id,
                    _settings.Name,
                    address,
                    _settings.Labels,
                    _settings.Version,
                    default,
                    default,
                    default,
                    _settings.OwnsRuns
                )
            )
            .ConfigureAwait(false);
        _slots!.Begin(Shared.Answers);
        await BuryAsync().ConfigureAwait(false);
        _host = Silo();
        try
        {
            await _host.StartAsync().ConfigureAwait(false);
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            throw new StorageException(
                "this node could not join the others: they do not answer, or do not take its certificate "
                    + $"({e.GetBaseException().Message})",
                e
            );
        }
        var membership = _host.Services.GetRequiredService<IClusterMembershipService>();
        _link.Begin(membership, _host.Services.GetRequiredService<NodeCallsClient>());
        _telling = Task.Run(() => TellAsync(membership));
    }

    // A silo that joins asks all that are said to be there, and waits for those that are gone.
    async Task BuryAsync()
    {
        var nodes = await _store.Nodes.AllAsync().ConfigureAwait(false);
        var there = nodes.Where(n => n.Left is null && n.Silent < NodeWork.GivesUpAfter).Select(n => n.Id).ToHashSet();
        await new StoreMembership(_store.Members, TimeProvider.System)
            .BuryAsync(name => !there.Contains(name))
            .ConfigureAwait(false);
    }

    // Who comes and goes.
    async Task TellAsync(IClusterMembershipService membership)
    {
        var logger = _logs.CreateLogger<ClusterNode>();
        var before = new Dictionary<string, SiloStatus>();
        try
        {
            await foreach (var snapshot in membership.MembershipUpdates.WithCancellation(_ending.Token))
            {
                foreach (var member in snapshot.Members.Values.Where(m => m.Name != _link.Id))
                {
                    if (before.GetValueOrDefault(member.Name) == member.Status)
                        continue;
                    if (member.Status == SiloStatus.Active)
                        logger.LogInformation("Node {Node} is there", member.Name);
                    else if (member.Status == SiloStatus.Dead && before.ContainsKey(member.Name))
                        logger.LogWarning("Node {Node} is gone", member.Name);
                    before[member.Name] = member.Status;
                }
            }
        }
        catch (OperationCanceledException)
        {
            // It ends.
        }
    }

    IHost Silo()
    {
        var builder = Host.CreateEmptyApplicationBuilder(new() { DisableDefaults = true });
        builder.Services.AddSingleton(_logs);
        builder.UseOrleans(silo =>
        {
            silo.Services.AddSingleton(Shared.Answers)
                .AddSingleton(_desk)
                .AddSingleton<IFatalErrorHandler>(new Expulsion(_expelled))
                .AddSingleton<NodeCallsClient>()
                .AddSingleton<IMembershipTable>(new StoreMembership(_store.Members, TimeProvider.System));
            silo.AddGrainService<NodeCalls>();
#pragma warning disable ORLEANSEXP003 // The usual one loses a part of the survivors' grains when a node goes.
            silo.AddDistributedGrainDirectory();
#pragma warning restore ORLEANSEXP003
            silo.Configure<ClusterOptions>(o => (o.ClusterId, o.ServiceId) = ("gatechain", "gatechain"));
            silo.Configure<SiloOptions>(o => o.SiloName = _link.Id);
            silo.Configure<EndpointOptions>(o =>
            {
                o.AdvertisedIPAddress = _settings.Listen.Address;
                o.SiloPort = _settings.Listen.Port == 0 ? FreePort(_settings.Listen.Address) : _settings.Listen.Port;
                // Nobody but nodes speaks to silos.
                o.GatewayPort = 0;
            });
            silo.Configure<ClusterMembershipOptions>(Tune);
            // So long a grain of a silo that is gone is not made anew: by then a node that only hangs has given up.
            silo.Configure<GrainDirectoryOptions>(o => o.RangeLeaseDuration = NodeWork.GivesUpAfter);
            silo.Configure<SiloMessagingOptions>(o => o.ResponseTimeout = TimeSpan.FromSeconds(20));
            silo.UseTls(tls => Close(tls, _settings.Certificate, _settings.Authority));
        });
        return builder.Build();
    }

    // A node that is gone is missed after some seconds, and one that is slow for a moment is not.
    static void Tune(ClusterMembershipOptions options)
    {
        options.ProbeTimeout = TimeSpan.FromSeconds(1);
        options.NumMissedProbesLimit = 3;
        // Changes are told at once; this is for who did not hear. Each reads all of it.
        options.TableRefreshTimeout = TimeSpan.FromSeconds(10);
        options.IAmAliveTablePublishTimeout = TimeSpan.FromSeconds(5);
        options.NumMissedTableIAmAliveLimit = 3;
        options.DeathVoteExpirationTimeout = TimeSpan.FromSeconds(10);
        options.MaxJoinAttemptTime = TimeSpan.FromSeconds(20);
        options.DefunctSiloExpiration = TimeSpan.FromDays(1);
        options.ExtendProbeTimeoutDuringDegradation = false;
    }

    // Who can show a certificate of the authority, or else the same, is a node, and nobody else.
    static void Close(TlsOptions tls, X509Certificate2 own, X509Certificate2? authority)
    {
        tls.LocalCertificate = own;
        tls.RemoteCertificateMode = RemoteCertificateMode.RequireCertificate;
        tls.RemoteCertificateValidation = (certificate, _, _) =>
            authority is null ? SharedCertificate.IsSame(certificate, own) : IsOf(certificate, authority);
        tls.OnAuthenticateAsClient = (_, client) => client.TargetHost = "gatechain-node";
        tls.ClientCertificateMode = RemoteCertificateMode.RequireCertificate;
    }

    static bool IsOf(X509Certificate2 certificate, X509Certificate2 authority)
    {
        using var chain = new X509Chain();
        chain.ChainPolicy.TrustMode = X509ChainTrustMode.CustomRootTrust;
        chain.ChainPolicy.CustomTrustStore.Add(authority);
        chain.ChainPolicy.RevocationMode = X509RevocationMode.NoCheck;
        return chain.Build(certificate);
    }

    static int FreePort(IPAddress address)
    {
        using var listener = new TcpListener(address, 0);
        listener.Start();
        return ((IPEndPoint)listener.LocalEndpoint).Port;
    }

    /// <summary>Leaves in good order: what is left of its runs is taken by others at once.</summary>
    public async ValueTask DisposeAsync()
    {
        if (_ending.IsCancellationRequested)
            return;
        await _ending.CancelAsync().ConfigureAwait(false);
        await _telling.ConfigureAwait(false);
        if (_slots is not null)
            await _slots.DisposeAsync().ConfigureAwait(false);
        try
        {
            await _store.Nodes.LeaveAsync(_link.Id).ConfigureAwait(false);
        }
        catch (StorageException)
        {
            // The others notice in a while.
        }
        if (_host is null)
            return;
        using var patience = new CancellationTokenSource(TimeSpan.FromSeconds(5));
        try
        {
            await _host.StopAsync(patience.Token).ConfigureAwait(false);
        }
        catch (OperationCanceledException)
        {
            // It ends with the process.
        }
        _host.Dispose();
    }
}
