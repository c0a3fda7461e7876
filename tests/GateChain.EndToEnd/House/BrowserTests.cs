using Microsoft.Playwright;

namespace GateChain.EndToEnd.House;

/// <summary>Tests of the console: each has a service of its own, and a page of it.</summary>
public abstract class BrowserTests : IAsyncLifetime
{
    private protected Service _service = null!;
    private protected Browser _browser = null!;
    private protected IPage _page = null!;

    /// <summary>The service, with what has to be in it.</summary>
    private protected abstract Task<Service> ServiceAsync();

    public async ValueTask InitializeAsync()
    {
        _service = await ServiceAsync();
        _browser = new(_service.Address);
        _page = await _browser.PageAsync();
    }

    public async ValueTask DisposeAsync()
    {
        await _browser.DisposeAsync();
        await _service.DisposeAsync();
        GC.SuppressFinalize(this);
    }
}
