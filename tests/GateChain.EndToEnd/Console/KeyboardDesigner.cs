using Microsoft.Playwright;
using static Microsoft.Playwright.Assertions;

namespace GateChain.EndToEnd.Console;

/// <summary>Never touches the mouse: keys of the canvas, Tab to the fields.</summary>
sealed class KeyboardDesigner(IPage page) : DesignerPage(page)
{
    Task PressKeyAsync(string key)
    {
        Actions.Key();
        return Page.Keyboard.PressAsync(key);
    }

    Task TypeTextAsync(string text)
    {
        Actions.Text();
        return Page.Keyboard.TypeAsync(text);
    }

    async Task ToCanvasAsync()
    {
        // Escape leads back from the inspector; from elsewhere Tab goes there.
        for (var i = 0; i < 80 && !await FocusIsAsync(".designcanvas"); i++)
            await PressKeyAsync(i == 0 ? "Escape" : "Tab");
        Assert.True(await FocusIsAsync(".designcanvas"), "the canvas can't be reached");
    }

    Task<bool> FocusIsAsync(string selector) =>
        Page.EvaluateAsync<bool>("s => document.activeElement?.matches(s) === true", selector);

    public override async Task<string> AddAsync(string kind, string? after, string? into = null)
    {
        if (into?.StartsWith('@') == true)
        {
            // A handler that was just added is chosen.
            await ToCanvasAsync();
        }
        else if (after is not null || into is not null)
        {
            await ChooseAsync((after ?? into)!);
        }
        else
        {
            await ToCanvasAsync();
            await PressKeyAsync("Escape");
        }
        var before = await Page.Locator(".step, .container:not(.band)").CountAsync();
        await PressKeyAsync("a");
        await PickAsync(kind);
        await Expect(Page.Locator(".step, .container:not(.band)")).ToHaveCountAsync(before + 1);
        return await ChosenAsync(kind);
    }

    // Into the list that has just opened.
    async Task PickAsync(string text)
    {
        await Expect(Page.Locator("[role=dialog] input[role=combobox]")).ToBeFocusedAsync();
        await TypeTextAsync(text);
        await PressKeyAsync("Enter");
        await Expect(Page.GetByRole(AriaRole.Dialog)).ToHaveCountAsync(0);
        await Expect(Page.Locator(".designcanvas")).ToBeFocusedAsync();
    }

    public override async Task RenameAsync(string address, string to)
    {
        await ChooseAsync(address);
        await NameAsync(to);
    }

    public override async Task HandleAsync(string occasion)
    {
        await ToCanvasAsync();
        await PressKeyAsync("a");
        await Expect(Page.Locator("[role=dialog] input[role=combobox]")).ToBeFocusedAsync();
        await TypeTextAsync($"handler: {occasion}");
        await PressKeyAsync("Enter");
        await Expect(Page.Locator(".band[data-chosen=true]")).ToBeVisibleAsync();
    }

    public override async Task ConnectAsync(string from, string to)
    {
        await ChooseAsync(from);
        await PressKeyAsync("g");
        await PickAsync(to);
        await Expect(Inspector.Locator(".kindword").First).ToHaveTextAsync("gate");
    }

    public override async Task ChooseAsync(string address)
    {
        await ToCanvasAsync();
        await PressKeyAsync("Control+f");
        await PickAsync(address);
        await Expect(Inspector.Locator(".idword").First).ToHaveTextAsync(address);
    }

    public override async Task ChooseGateAsync(string from, string to)
    {
        await ChooseAsync(from);
        await PressKeyAsync("Enter");
        await TabToAsync($"to {to}", "button");
        await PressKeyAsync("Enter");
        await Expect(Inspector.Locator(".idword").First).ToHaveTextAsync($"{IdOf(from)} → {to}");
    }

    public override async Task ChooseChainAsync()
    {
        await ToCanvasAsync();
        await PressKeyAsync("Escape");
    }

    public override async Task FillAsync(string label, string text, string? within = null)
    {
        await TabToAsync(label, "field", within);
        await PressKeyAsync("Control+A");
        await TypeTextAsync(text);
        await PressKeyAsync(label == "Id" ? "Enter" : "Escape");
    }

    public override async Task FillItemsAsync(string label, string within, params string[] items)
    {
        await TabToAsync(label, "field", within);
        foreach (var item in items)
        {
            await TypeTextAsync(item);
            await PressKeyAsync("Enter");
        }
    }

    public override async Task SelectAsync(string label, string option, string? words = null)
    {
        await TabToAsync(label, "field");
        // A choice is made by typing how it begins.
        await TypeTextAsync(words ?? option);
    }

    public override async Task PressAsync(string button, string? within = null)
    {
        await TabToAsync(button, "button", within);
        await PressKeyAsync("Enter");
    }

    public override async Task TickAsync(string label)
    {
        await TabToAsync(label, "field");
        await PressKeyAsync("Space");
    }

    const string Focused = """
        within => {
          const e = document.activeElement; if (!e || !e.closest('.inspector')) return '';
          if (within && !e.closest('section,fieldset')?.textContent.includes(within)) return '';
          const by = e.getAttribute('aria-labelledby'); const named = by ? document.getElementById(by)?.textContent : null;
          const seen = n => { const c = n.cloneNode(true); c.querySelectorAll('[aria-hidden]').forEach(h => h.remove()); return c.textContent; };
          return (e.getAttribute('aria-label') ?? named ?? (e.labels?.[0]?.textContent) ?? seen(e) ?? '').replace(/\s*\*$/, '').replace(/\s+/g, ' ').trim();
        }
        """;

    // To a field that is near with Tab, to others by their name.
    async Task TabToAsync(string name, string what, string? within = null)
    {
        bool Is(string at) => what == "button" ? at.StartsWith(name, StringComparison.Ordinal) : at == name;
        for (var i = 0; i < 3; i++)
        {
            var at = await Page.EvaluateAsync<string>(Focused, within);
            if (Is(at))
                return;
            if (!await InInspectorAsync())
                break;
            await PressKeyAsync("Tab");
        }
        await ToCanvasAsync();
        await PressKeyAsync("j");
        await Expect(Page.Locator("[role=dialog] input[role=combobox]")).ToBeFocusedAsync();
        await TypeTextAsync(name);
        // Some come with what the service says of a chain or a kind.
        var found = Page.Locator("[role=dialog] [role=option]", new() { HasText = name }).First;
        await Expect(found).ToBeVisibleAsync();
        // Of several of that name the one in the wanted part.
        var options = await Page.Locator("[role=dialog] [role=option]").AllTextContentsAsync();
        var marked = within is null
            ? 0
            : Math.Max(0, options.ToList().FindIndex(o => o.Contains(within, StringComparison.Ordinal)));
        for (var i = 0; i < marked; i++)
            await PressKeyAsync("ArrowDown");
        await PressKeyAsync("Enter");
        await Expect(Inspector.Locator(":focus")).ToHaveCountAsync(1);
        var reached = await Page.EvaluateAsync<string>(Focused, within);
        Assert.True(Is(reached), $"“{name}” can't be reached; reached “{reached}”");
    }

    Task<bool> InInspectorAsync() => Page.EvaluateAsync<bool>("() => !!document.activeElement?.closest('.inspector')");

    async Task ToInspectorAsync()
    {
        await ToCanvasAsync();
        await PressKeyAsync("i");
        await Expect(Inspector.Locator(":focus")).ToHaveCountAsync(1);
    }
}
