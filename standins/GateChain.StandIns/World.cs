using Microsoft.AspNetCore.Hosting.Server;
using Microsoft.AspNetCore.Hosting.Server.Features;

namespace GateChain.StandIns;

/// <summary>
/// The laboratory, the compute service, the chat, the mail server and the OpenID provider of Larkmoor, as one process
/// on
/// loopback. Nothing of it is real.
/// </summary>
public sealed class World : IAsyncDisposable
{
    readonly WebApplication _app;
    readonly MailServer _mail;

    World(WebApplication app, MailServer mail) => (_app, _mail) = (app, mail);

    public Uri Address =>
        new(_app.Services.GetRequiredService<IServer>().Features.Get<IServerAddressesFeature>()!.Addresses.First());
    public int MailPort => _mail.Port;

    /// <summary>What can be made to go wrong.</summary>
    public Knobs Knobs { get; } = new();

    /// <summary>What the mail server has taken.</summary>
    public IReadOnlyList<Mail> Mails => _mail.Mails;

    /// <param name="port">Of HTTP; 0 for any that is free.</param>
    /// <param name="mailPort">Of SMTP; 0 for any that is free.</param>
    public static async Task<World> StartAsync(int port = 0, int mailPort = 0)
    {
        var builder = WebApplication.CreateSlimBuilder();
        builder.WebHost.UseUrls($"http://127.0.0.1:{port}");
        builder.Logging.ClearProviders();
        IdentityProvider.Add(builder.Services);
        var app = builder.Build();
        app.UseAuthentication();
        var world = new World(app, new MailServer(mailPort));
        app.MapGet("/knobs", () => world.Knobs);
        app.MapPost("/knobs", (Knobs.Turn turn) => world.Knobs.Set(turn));
        app.MapGet("/mails", () => world.Mails);
        Laboratory.Map(app.MapGroup("/lab"), world.Knobs);
        ComputeService.Map(app.MapGroup("/compute"), world.Knobs);
        Chat.Map(app.MapGroup("/chat"), world.Knobs);
        await app.StartAsync();
        return world;
    }

    public Task WaitAsync() => _app.WaitForShutdownAsync();

    public async ValueTask DisposeAsync()
    {
        _mail.Dispose();
        await _app.DisposeAsync();
    }
}
