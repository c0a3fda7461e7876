using System.Text.RegularExpressions;
using Microsoft.Playwright;
using static Microsoft.Playwright.Assertions;

namespace GateChain.EndToEnd.Console;

/// <summary>
/// The designer as a person meets it: with the mouse, or with the keyboard alone (texts are typed either way).
/// </summary>
abstract class DesignerPage(IPage page)
{
    protected IPage Page { get; } = page;

    /// <summary>How often the person clicked, dragged, pressed a key, and typed a text.</summary>
    public Actions Actions { get; } = new();

    public ILocator Step(string address) => Page.Locator($"[data-step='{address}']");

    public ILocator Gate(string from, string to) => Page.Locator($"[data-gate='{from}-{to}']");

    public ILocator Inspector => Page.Locator(".inspector");

    /// <summary>Adds a step of a kind behind another; null for none. Gives the id it got.</summary>
    public abstract Task<string> AddAsync(string kind, string? after, string? into = null);

    /// <summary>Gives the chosen step another id.</summary>
    public async Task NameAsync(string id)
    {
        await FillAsync("Id", id);
        await Expect(Inspector.Locator(".idword").First).ToHaveTextAsync(new Regex($"(^|/){id}$"));
    }

    /// <summary>Adds the handler of an occasion, or chooses it.</summary>
    public abstract Task HandleAsync(string occasion);

    public abstract Task RenameAsync(string address, string to);
    public abstract Task ConnectAsync(string from, string to);
    public abstract Task ChooseAsync(string address);

    /// <param name="from">The address of the step it leaves from.</param>
    /// <param name="to">The id of the step it leads to.</param>
    public abstract Task ChooseGateAsync(string from, string to);

    protected static string IdOf(string address) => address[(address.LastIndexOf('/') + 1)..];

    /// <summary>Chooses nothing, so that the inspector shows the chain.</summary>
    public abstract Task ChooseChainAsync();

    /// <summary>Puts text into a field of the inspector, in the place of what is there.</summary>
    public abstract Task FillAsync(string label, string text, string? within = null);

    /// <summary>Adds items to a list.</summary>
    public abstract Task FillItemsAsync(string label, string within, params string[] items);

    /// <param name="label">The field's label.</param>
    /// <param name="option">The value of the choice.</param>
    /// <param name="words">How its label begins, where that is not its value.</param>
    public abstract Task SelectAsync(string label, string option, string? words = null);
    public abstract Task PressAsync(string button, string? within = null);
    public abstract Task TickAsync(string label);

    public Task SavedAsync() => Expect(Page.Locator(".savedstate")).ToHaveTextAsync("✓ saved");

    /// <summary>The id of the only chosen step.</summary>
    protected async Task<string> ChosenAsync(string kind)
    {
        await Expect(Inspector.Locator(".kindword").First).ToHaveTextAsync(kind);
        return (await Inspector.Locator(".idword").First.TextContentAsync())!;
    }
}
