using GateChain.EndToEnd.House;
using GateChain.StandIns;

namespace GateChain.EndToEnd.Kinds;

/// <summary>A service with the stand-ins around it.</summary>
static class Worlds
{
    /// <summary>
    /// Pushes a workspace whose connections, and probes of ports, lead to the stand-ins, and sets the secrets that they
    /// ask for.
    /// </summary>
    public static async Task ConnectAsync(this Service service, string workspace, World world, SshServer? ssh = null)
    {
        await service.PushFolderAsync(workspace, (name, text) =>
            name is not ("connections.yaml" or "probes.chain.yaml")
                ? text
                : text.Replace("http://127.0.0.1:8481/", world.Address.ToString(), StringComparison.Ordinal)
                    .Replace("port: 8482", $"port: {world.MailPort}", StringComparison.Ordinal)
                    .Replace("port: 8483", $"port: {ssh?.Port ?? 8483}", StringComparison.Ordinal)
                    .Replace("SHA256:host-key", ssh?.HostKey ?? "", StringComparison.Ordinal)
        );
        await service.Client.SetSecretAsync("lab", "made-up-lab-secret");
        await service.Client.SetSecretAsync("mail", MailServer.Password);
        if (ssh is not null)
            await service.Client.SetSecretAsync("price-office-key", ssh.PrivateKey);
    }
}
