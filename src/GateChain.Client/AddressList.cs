namespace GateChain.Client;

/// <summary>
/// Sends requests to the first of several services that answers, and stays with it: nodes that share a database give
/// the
/// same answers. A request goes to the next one only when the service has surely not had it, or when asking twice does
/// no harm. Thread-safe.
/// </summary>
sealed class AddressList(IReadOnlyList<Uri> addresses) : DelegatingHandler(new SocketsHttpHandler())
{
    int _current;

    /// <summary>All of them.</summary>
    public IReadOnlyList<Uri> All => addresses;

    /// <summary>The one that answered last.</summary>
    public Uri Current => addresses[Volatile.Read(ref _current) % addresses.Count];

    protected override async Task<HttpResponseMessage> SendAsync(
        HttpRequestMessage request,
        CancellationToken cancellationToken
    )
    {
        var path = addresses[0].MakeRelativeUri(request.RequestUri!);
        for (var tries = 1; ; tries++)
        {
            var at = Volatile.Read(ref _current);
            request.RequestUri = new(addresses[at % addresses.Count], path);
            try
            {
                return await base.SendAsync(request, cancellationToken).ConfigureAwait(false);
            }
            catch (HttpRequestException e) when (tries < addresses.Count)
            {
                Interlocked.CompareExchange(ref _current, at + 1, at);
                if (e.HttpRequestError != HttpRequestError.ConnectionError && request.Method != HttpMethod.Get)
                    throw;
            }
        }
    }

    /// <summary>The service has gone in the middle of an answer: the next request goes to the next one.</summary>
    public void Leave()
    {
        var at = Volatile.Read(ref _current);
        Interlocked.CompareExchange(ref _current, at + 1, at);
    }
}
