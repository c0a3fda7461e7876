using System.Net.Http.Headers;
using System.Text.Json.Serialization;
using GateChain.Access;
using GateChain.Access.Audit;
using GateChain.Client;
using GateChain.Cluster.Hosting;
using GateChain.Core.Checking;
using GateChain.Core.Values;
using GateChain.Engine;
using GateChain.Engine.Basics;
using GateChain.Kinds;
using GateChain.Service.Access;
using GateChain.Service.Endpoints;
using GateChain.Service.Views;
using GateChain.Storage;
using GateChain.Storage.Sqlite;
using Microsoft.AspNetCore.Hosting.Server;
using Microsoft.AspNetCore.Hosting.Server.Features;
using Microsoft.Extensions.FileProviders;
using Serilog;

namespace GateChain.Service.Hosting;

/// <summary>The service, put together.</summary>
public sealed class GateChainService : IAsyncDisposable
{
    readonly WebApplication _app;
    readonly ChainEngine _engine;
    readonly IStore _store;
    readonly FileStream _lock;
    readonly ClusterNode? _cluster;

    GateChainService(WebApplication app, ChainEngine engine, IStore store, FileStream dataLock, ClusterNode? cluster) =>
        (_app, _engine, _store, _lock, _cluster) = (app, engine, store, dataLock, cluster);

    /// <summary>Where it listens, once started.</summary>
    public Uri Address =>
        new(_app.Services.GetRequiredService<IServer>().Features.Get<IServerAddressesFeature>()!.Addresses.First());

    /// <summary>
    /// The one-time link with which the first account is made; null when there are accounts, and on a service that may
    /// be used without.
    /// </summary>
    public string? FirstLink { get; private set; }

    /// <summary>Starts the service: recovers unfinished runs, then answers requests.</summary>
    /// <exception cref="StorageException">The data folder can't be used; the message says why.</exception>
    public static async Task<GateChainService> StartAsync(ServiceOptions options)
    {
        var folders = options.ToEngine();
        var dataLock = Lock(folders.DataFolder);
        IStore? store = null;
        try
        {
            options = Joining.Place(options);
            var node = Joining.NewId(options);
            store = await Stores.OpenAsync(folders, options.Database, node);
            var (app, engine) = Build(options, folders with { Node = node }, store, node);
            var cluster = app.Services.GetService<ClusterNode>();
            var access = app.Services.GetRequiredService<AccessServices>();
            // Before the first step begins: what it may use is said there.
            await access.StartAsync();
            if (cluster is not null)
                await Joining.StartAsync(app.Services, options);
            await engine.StartAsync();
            app.Services.GetRequiredService<ProviderScheme>().Start();
            await app.StartAsync();
            var service = new GateChainService(app, engine, store, dataLock, cluster);
            engine.Starter.Home = options.Home ?? service.Address.ToString();
            app.Services.GetRequiredService<OwnAddress>().Port = service.Address.Port;
            if (!access.People.AreThere && !app.Services.GetRequiredService<OpenDoor>().MayBeOpen)
            {
                service.FirstLink = PeopleEndpoints.LinkAddress(engine.Starter, await access.People.FirstLinkAsync());
            }
            return service;
        }
        catch
        {
            if (store is not null)
                await store.DisposeAsync();
            await dataLock.DisposeAsync();
            throw;
        }
    }

    /// <summary>
    /// Reads the journal of every run of a data folder that no service works on, and compares what is remembered of it.
    /// </summary>
    /// <param name="options">Where the data are.</param>
    /// <param name="rebuild">Whether all that is remembered is made again.</param>
    /// <param name="cancel">Gives up.</param>
    /// <exception cref="StorageException">The database can't be opened, or a service works on it.</exception>
    public static async Task<DataVerdict> VerifyAsync(ServiceOptions options, bool rebuild, CancellationToken cancel)
    {
        var folders = options.ToEngine();
        await using var dataLock = Lock(folders.DataFolder);
        await using var store = await Stores.OpenAsync(folders, options.Database);
        var (app, engine) = Build(options, folders, store);
        await using (app)
        await using (engine)
        {
            var damages = store is SqliteStore file ? file.Damages() : [];
            var found = await engine.History.VerifyAsync(rebuild, cancel);
            return new(found.Runs, found.Legs, found.Missing, found.Wrong, found.Unreadable, damages);
        }
    }

    /// <summary>Looks whether the audit log of a data folder is as it was written, that no service works on.</summary>
    /// <exception cref="StorageException">The database can't be opened, or a service works on it.</exception>
    public static async Task<AuditVerdict> VerifyAuditAsync(string dataFolder, CancellationToken cancel)
    {
        var options = new EngineOptions(Path.GetFullPath(dataFolder), ".");
        if (!File.Exists(options.Database))
            throw new StorageException($"there is no database in {options.DataFolder}", null);
        await using var dataLock = Lock(options.DataFolder);
        await using var store = new SqliteStore(options.Database);
        return AccessViews.Of(await AuditCheck.VerifyAsync(store.Audit, AnchorFiles.Read(options.DataFolder), cancel));
    }

    static (WebApplication, ChainEngine) Build(
        ServiceOptions options,
        EngineOptions folders,
        IStore store,
        string? node = null
    )
    {
        var builder = WebApplication.CreateSlimBuilder(
            new WebApplicationOptions { ContentRootPath = AppContext.BaseDirectory }
        );
        // Where it listens is said by its options and nothing else: no variable of the environment opens another door.
        builder.Configuration.Sources.Clear();
        builder.WebHost.UseKestrelHttpsConfiguration();
        builder.WebHost.ConfigureKestrel(k => Listener.Configure(k, options));
        builder.Logging.ClearProviders();
        builder.Services.AddSerilog(log => ServiceLog.Configure(log, folders.DataFolder, options.LogToConsole));
        builder.Services.AddSingleton(TimeProvider.System);
        Telemetry.Add(builder.Services, options);
        var kinds = KindSet.Of(options.Plugins);
        var cipher = SecretCipher.Create(folders.DataFolder, isShared: node is not null);
        builder.Services.AddSingleton(new ChainCheck(kinds.Catalogue));
        builder.Services.AddSingleton<OwnAddress>();
        builder.Services.AddSingleton(s => new ChainEngine(
            folders with
            {
                Rules = s.GetRequiredService<AccessServices>().RulesOf,
                Plugins = kinds.Plugins,
                OwnPort = () => s.GetRequiredService<OwnAddress>().Port,
            },
            store,
            kinds.Runners,
            kinds.Probes,
            cipher,
            s.GetRequiredService<ChainCheck>(),
            TimeProvider.System,
            s.GetRequiredService<ILogger<ChainEngine>>(),
            shared: s.GetService<ClusterNode>()?.Shared
        ));
        if (node is not null)
            Joining.Add(builder.Services, options, (ISharedStore)store, cipher, node);
        // Endpoints ask for what they use, not for the engine.
        builder
            .Services.AddSingleton(folders)
            .AddSingleton(s => s.GetRequiredService<ChainEngine>().Starter)
            .AddSingleton(s => s.GetRequiredService<ChainEngine>().Commands)
            .AddSingleton(s => s.GetRequiredService<ChainEngine>().Recovery)
            .AddSingleton(s => s.GetRequiredService<ChainEngine>().Runs)
            .AddSingleton(s => s.GetRequiredService<ChainEngine>().Reader)
            .AddSingleton(s => s.GetRequiredService<ChainEngine>().Feed)
            .AddSingleton(s => s.GetRequiredService<ChainEngine>().LogReader)
            .AddSingleton(s => s.GetRequiredService<ChainEngine>().ProgressReader)
            .AddSingleton(s => s.GetRequiredService<ChainEngine>().Slots)
            .AddSingleton(s => s.GetRequiredService<ChainEngine>().Nodes)
            .AddSingleton(s => s.GetRequiredService<ChainEngine>().Workspace)
            .AddSingleton(s => s.GetRequiredService<ChainEngine>().Chains)
            .AddSingleton(s => s.GetRequiredService<ChainEngine>().Drafts)
            .AddSingleton(s => s.GetRequiredService<ChainEngine>().Uses)
            .AddSingleton(s => s.GetRequiredService<ChainEngine>().Retirement)
            .AddSingleton(s => s.GetRequiredService<ChainEngine>().Secrets)
            .AddSingleton(s => s.GetRequiredService<ChainEngine>().Connections)
            .AddSingleton(s => s.GetRequiredService<ChainEngine>().Lookup)
            .AddSingleton(s => s.GetRequiredService<ChainEngine>().Triggers)
            .AddSingleton(s => s.GetRequiredService<ChainEngine>().TriggerService)
            .AddSingleton(s => s.GetRequiredService<ChainEngine>().TriggerFiles)
            .AddSingleton(s => s.GetRequiredService<ChainEngine>().WorkspaceFiles)
            .AddSingleton(s => s.GetRequiredService<ChainEngine>().Broken)
            .AddSingleton(s => s.GetRequiredService<ChainEngine>().Hooks)
            .AddSingleton(s => s.GetRequiredService<ChainEngine>().Backfills)
            .AddSingleton(s => s.GetRequiredService<ChainEngine>().Kept)
            .AddSingleton(s => s.GetRequiredService<ChainEngine>().Positions)
            .AddSingleton(s => s.GetRequiredService<ChainEngine>().Keeping)
            .AddSingleton(s => s.GetRequiredService<ChainEngine>().Data)
            .AddSingleton(s => s.GetRequiredService<ChainEngine>().Replayer)
            .AddSingleton(s => s.GetRequiredService<ChainEngine>().Consequences)
            .AddSingleton(s => s.GetRequiredService<ChainEngine>().Moments)
            .AddSingleton(s => s.GetRequiredService<ChainEngine>().Outlook)
            .AddSingleton<HomeViews>()
            .AddSingleton(store.History)
            .AddSingleton(store.Triggers)
            .AddSingleton(store.Files)
            .AddSingleton(store.Journal)
            .AddSingleton(store.Catalogue)
            .AddSingleton(store.Runs);
        builder.Services.AddExceptionHandler<Problems>().AddProblemDetails().AddOpenApi(Api.Describe);
        builder.Services.ConfigureHttpJsonOptions(o =>
        {
            o.SerializerOptions.NumberHandling = JsonNumberHandling.Strict;
            // Values are held to their own bound, which tells what is wrong in words.
            o.SerializerOptions.MaxDepth = ValueJson.MaxDepth;
            // What a request lacks is told by its name, and never met later as nothing.
            o.SerializerOptions.RespectNullableAnnotations = true;
            o.SerializerOptions.RespectRequiredConstructorParameters = true;
        });
        builder.Services.Configure<Microsoft.AspNetCore.Routing.RouteHandlerOptions>(o => o.ThrowOnBadRequest = true);
        builder.Services.Configure<Microsoft.AspNetCore.Routing.RouteOptions>(o =>
            o.SetParameterPolicy<Microsoft.AspNetCore.Routing.Constraints.RegexInlineRouteConstraint>("regex")
        );
        builder.Services.Configure<Microsoft.Extensions.Hosting.HostOptions>(o =>
            o.ShutdownTimeout = TimeSpan.FromSeconds(3)
        );

        AccessHosting.Add(builder.Services, options, folders, store, cipher);

        var app = builder.Build();
        app.UseExceptionHandler();
        app.UseStatusCodePages(StatusPages.Write);
        if (options.BehindProxy.Count > 0)
            app.UseForwardedHeaders();
        app.UseMiddleware<RequestGuard>();
        ServeFiles(app);
        app.UseRouting();
        app.Use(AccessHosting.Hold);
        app.UseAuthentication();
        app.UseRateLimiter();
        app.UseAuthorization();
        app.Use(
            (http, next) =>
            {
                // A body in another character set would not be read as what it says.
                if (
                    MediaTypeHeaderValue.TryParse(http.Request.ContentType, out var type)
                    && type.CharSet?.Trim('"') is { Length: > 0 } set
                    && !set.Equals("utf-8", StringComparison.OrdinalIgnoreCase)
                )
                {
                    http.Response.StatusCode = 415;
                    return Task.CompletedTask;
                }
                return next(http);
            }
        );
        app.MapOpenApi("/api/openapi.json").ForAnyone("describes the API; no data are in it");
        var api = app.MapGroup("/api");
        ChainEndpoints.Map(api);
        DraftEndpoints.Map(api);
        DesignEndpoints.Map(api);
        ConnectionEndpoints.Map(api);
        FileEndpoints.Map(api);
        RunEndpoints.Map(api);
        LogEndpoints.Map(api);
        LiveEndpoints.Map(api);
        TriggerEndpoints.Map(api);
        HistoryEndpoints.Map(api);
        SessionEndpoints.Map(api);
        ProviderScheme.Map(api);
        MyEndpoints.Map(api);
        PeopleEndpoints.Map(api);
        DeviceEndpoints.Map(api);
        AuditEndpoints.Map(api);
        NodeEndpoints.Map(api);
        RetentionEndpoints.Map(api);
        LineageEndpoints.Map(api);
        ReplayEndpoints.Map(api);
        MomentEndpoints.Map(api);
        HookEndpoints.Map(app);
        HealthEndpoint.Map(app);
        Telemetry.Map(app, options);
        ServeConsole(app);
        return (app, app.Services.GetRequiredService<ChainEngine>());
    }

    // Wrong addresses, methods and media types of the API are told as such.
    const string NotTheApi = "{*path:nonfile:regex(^(?!(api|hooks)(/|$)).*$)}";

    static readonly string ConsoleFolder = Path.Combine(AppContext.BaseDirectory, "console");

    const string ConsoleIsOpen = "the console is the same for everybody; it holds no data";

    // Files with a hash in their name may be kept for good.
    static void ServeFiles(WebApplication app)
    {
        if (!Directory.Exists(ConsoleFolder))
            return;
        app.UseStaticFiles(
            new StaticFileOptions
            {
                FileProvider = new PhysicalFileProvider(ConsoleFolder),
                OnPrepareResponse = c =>
                    c.Context.Response.Headers.CacheControl = c.Context.Request.Path.StartsWithSegments("/assets")
                        ? "public, max-age=31536000, immutable"
                        : "no-cache",
            }
        );
    }

    // Every address of the console gives the same page.
    static void ServeConsole(WebApplication app)
    {
        if (!Directory.Exists(ConsoleFolder))
        {
            app.MapGet("/", () => "The console has not been built. The API is at /api/openapi.json.")
                .ForAnyone(ConsoleIsOpen)
                .ExcludeFromDescription();
            app.MapFallback(NotTheApi, () =>
                    Results.Text("The console has not been built. The API is at /api/openapi.json.")
                )
                .ForAnyone(ConsoleIsOpen);
            return;
        }
        var page = new StaticFileOptions
        {
            FileProvider = new PhysicalFileProvider(ConsoleFolder),
            OnPrepareResponse = c => c.Context.Response.Headers.CacheControl = "no-cache",
        };
        app.MapFallbackToFile(NotTheApi, "index.html", page).ForAnyone(ConsoleIsOpen);
        app.MapFallbackToFile("/", "index.html", page).ForAnyone(ConsoleIsOpen);
    }

    // One service at a time works on a data folder, and nobody else reads it.
    internal static FileStream Lock(string folder)
    {
        try
        {
            const UnixFileMode own = UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute;
            Directory.CreateDirectory(folder, own);
            // One that was there before is closed to others too; what lies in it can't be reached then, whatever its
            // own mode.
            File.SetUnixFileMode(folder, own);
            return new(Path.Combine(folder, "lock"), FileMode.OpenOrCreate, FileAccess.ReadWrite, FileShare.None);
        }
        catch (IOException e) when (File.Exists(Path.Combine(folder, "lock")))
        {
            throw new StorageException($"another service is working on the data folder {folder}", e);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new StorageException($"the data folder {folder} can't be used: {e.Message}", e);
        }
    }

    /// <summary>
    /// Waits until the service is asked to end (SIGTERM, Ctrl+C), or is a node that was drained. Gives why it has to
    /// end
    /// otherwise, in a sentence; null when it does as it was asked.
    /// </summary>
    public async Task<string?> WaitAsync()
    {
        var asked = Microsoft.Extensions.Hosting.HostingAbstractionsHostExtensions.WaitForShutdownAsync(_app);
        if (_cluster is null)
        {
            await asked;
            return null;
        }
        return await Task.WhenAny(asked, _engine.Node!.Drained, _cluster.Expelled) == _cluster.Expelled
            ? await _cluster.Expelled
            : null;
    }

    public async ValueTask DisposeAsync()
    {
        await _app.StopAsync();
        await _engine.DisposeAsync();
        if (_cluster is not null)
            await _cluster.DisposeAsync();
        await _app.Services.GetRequiredService<AccessServices>().DisposeAsync();
        await _app.DisposeAsync();
        await _store.DisposeAsync();
        await _lock.DisposeAsync();
    }
}
