using System.Net;
using System.Net.Sockets;

namespace GateChain.EndToEnd.House;

/// <summary>
/// A way to a server on loopback that can be cut, as by a firewall: nothing goes through, and nobody is told.
/// </summary>
sealed class Wire : IDisposable
{
    readonly TcpListener _listener = new(IPAddress.Loopback, 0);
    readonly CancellationTokenSource _ending = new();
    readonly int _to;
    volatile TaskCompletionSource _open = new();

    public Wire(int to)
    {
        _to = to;
        _open.SetResult();
        _listener.Start();
        _ = AcceptAsync();
    }

    /// <summary>Where it begins.</summary>
    public int Port => ((IPEndPoint)_listener.LocalEndpoint).Port;

    /// <summary>Nothing goes through from here on.</summary>
    public void Cut() => _open = new(TaskCreationOptions.RunContinuationsAsynchronously);

    /// <summary>What was held up goes on its way.</summary>
    public void Mend() => _open.TrySetResult();

    async Task AcceptAsync()
    {
        while (!_ending.IsCancellationRequested)
        {
            TcpClient from;
            try
            {
                from = await _listener.AcceptTcpClientAsync(_ending.Token);
            }
            catch (Exception e) when (e is OperationCanceledException or ObjectDisposedException)
            {
                return;
            }
            catch (SocketException)
            {
                // Who had knocked was killed meanwhile.
                continue;
            }
            _ = CarryAsync(from);
        }
    }

    async Task CarryAsync(TcpClient from)
    {
        using var near = from;
        using var far = new TcpClient { NoDelay = true };
        near.NoDelay = true;
        try
        {
            await _open.Task.WaitAsync(_ending.Token);
            await far.ConnectAsync(IPAddress.Loopback, _to, _ending.Token);
            await Task.WhenAny(
                CopyAsync(near.GetStream(), far.GetStream()),
                CopyAsync(far.GetStream(), near.GetStream())
            );
        }
        catch (Exception e) when (e is OperationCanceledException or SocketException or IOException)
        {
            // Whoever is at its ends sees that it is gone.
        }
    }

    async Task CopyAsync(NetworkStream from, NetworkStream to)
    {
        var bytes = new byte[64 << 10];
        while (await from.ReadAsync(bytes, _ending.Token) is > 0 and var count)
        {
            await _open.Task.WaitAsync(_ending.Token);
            await to.WriteAsync(bytes.AsMemory(0, count), _ending.Token);
        }
    }

    public void Dispose()
    {
        _ending.Cancel();
        _listener.Dispose();
        _ending.Dispose();
    }
}
