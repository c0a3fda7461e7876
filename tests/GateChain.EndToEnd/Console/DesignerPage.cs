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

/// <summary>What a person did, counted.</summary>
sealed class Actions
{
    int _clicks,
        _drags,
        _keys,
        _texts;

    public int All => _clicks + _drags + _keys + _texts;

    public void Click() => _clicks++;

    public void Drag() => _drags++;

    public void Key() => _keys++;

    public void Text() => _texts++;

    public override string ToString() =>
        $"{All} actions: {_clicks} clicks, {_drags} drags, {_keys} keys, {_texts} texts typed";
}

/// <summary>Drags, clicks, and types into what was clicked.</summary>
sealed class MouseDesigner(IPage page) : DesignerPage(page)
{
    public override async Task<string> AddAsync(string kind, string? after, string? into = null)
    {
        var item = Page.Locator(".palette .kind", new() { Has = Page.Locator($"b:text-is('{kind}')") });
        var before = await Page.Locator(".step, .container:not(.band)").CountAsync();
        await StandsStillAsync();
        Actions.Drag();
        if (after is not null)
        {
            await item.DragToAsync(
                Step(after),
                new()
                {
                    TargetPosition = new() { X = 30, Y = 25 },
                }
            );
        }
        else if (into is not null)
        {
            await item.DragToAsync(
                into.StartsWith('@') ? Page.Locator($"[data-band='{into}']") : Step(into),
                new() { TargetPosition = into[0] == '@' ? new() { X = 40, Y = 18 } : new() { X = 60, Y = 75 } }
            );
        }
        else
        {
            await item.DragToAsync(
                Page.Locator(".designcanvas"),
                new()
                {
                    TargetPosition = new() { X = 300, Y = 15 },
                }
            );
        }
        await Expect(Page.Locator(".step, .container:not(.band)")).ToHaveCountAsync(before + 1);
        return await ChosenAsync(kind);
    }

    // The drawing moves when it is laid out again; a person waits for that, too.
    async Task StandsStillAsync()
    {
        var last = "";
        for (var same = 0; same < 3; )
        {
            await Task.Delay(70);
            var now = await Page.EvaluateAsync<string>(
                "() => document.querySelector('.react-flow[aria-busy=false]') ? "
                    + "[document.querySelector('.react-flow__viewport')?.style.transform, "
                    + "...[...document.querySelectorAll('.react-flow__node')].map(n => "
                    + "n.style.transform)].join() : ''"
            );
            (same, last) = (now == last && now != "" ? same + 1 : 0, now);
        }
    }

    // A star behind it says that it is required.
    static Regex Exactly(string label) => new($@"^{Regex.Escape(label)}\s*\*?$");

    public override async Task RenameAsync(string address, string to)
    {
        await ChooseAsync(address);
        await NameAsync(to);
    }

    public override async Task ConnectAsync(string from, string to)
    {
        await StandsStillAsync();
        Actions.Drag();
        await Step(from).HoverAsync();
        var start = (
            await Page.Locator($".react-flow__node[data-id='{from}'] .react-flow__handle-right").BoundingBoxAsync()
        )!;
        var end = (
            await Page.Locator($".react-flow__node[data-id='{to}'] .react-flow__handle-left").BoundingBoxAsync()
        )!;
        await Page.Mouse.MoveAsync(start.X + start.Width / 2, start.Y + start.Height / 2);
        await Page.Mouse.DownAsync();
        await Page.Mouse.MoveAsync(end.X + 16, end.Y + 3, new() { Steps = 4 });
        // Near its edge the canvas moves under the pointer; one follows.
        for (var i = 0; i < 20; i++)
        {
            end = (
                await Page.Locator($".react-flow__node[data-id='{to}'] .react-flow__handle-left").BoundingBoxAsync()
            )!;
            await Page.Mouse.MoveAsync(end.X + end.Width / 2, end.Y + end.Height / 2, new() { Steps = 3 });
            if (
                await Page.Locator($".react-flow__node[data-id='{to}'] .react-flow__handle-left.valid").CountAsync() > 0
            )
            {
                break;
            }
            await Task.Delay(50);
        }
        await Page.Mouse.UpAsync();
        await Expect(Inspector.Locator(".kindword").First).ToHaveTextAsync("gate");
    }

    public override async Task ChooseAsync(string address)
    {
        await StandsStillAsync();
        Actions.Click();
        await Step(address).Locator(".title").First.ClickAsync();
        await Expect(Inspector.Locator(".idword").First).ToHaveTextAsync(address);
    }

    public override async Task ChooseGateAsync(string from, string to)
    {
        await StandsStillAsync();
        Actions.Click();
        await Gate(IdOf(from), to).Locator("button").ClickAsync();
        await Expect(Inspector.Locator(".idword").First).ToHaveTextAsync($"{IdOf(from)} → {to}");
    }

    public override async Task HandleAsync(string occasion)
    {
        Actions.Click();
        await Page.Locator(".palette .kind", new() { HasText = occasion }).ClickAsync();
        await Expect(Page.Locator(".band[data-chosen=true]")).ToBeVisibleAsync();
    }

    public override Task ChooseChainAsync()
    {
        Actions.Click();
        return Page.Locator(".react-flow__pane")
            .ClickAsync(
                new()
                {
                    Position = new() { X = 20, Y = 20 },
                }
            );
    }

    public override async Task FillAsync(string label, string text, string? within = null)
    {
        var field = (within is null ? Inspector : Inspector.Locator("fieldset", new() { HasText = within }).Last)
            .GetByLabel(Exactly(label))
            .First;
        Actions.Click();
        Actions.Text();
        await field.ClickAsync();
        await Page.Keyboard.PressAsync("Control+A");
        await Page.Keyboard.TypeAsync(text);
        if (label == "Id")
        {
            await Page.Keyboard.PressAsync("Enter");
            return;
        }
        await Page.Keyboard.PressAsync("Escape");
    }

    public override async Task FillItemsAsync(string label, string within, params string[] items)
    {
        Actions.Click();
        await Inspector
            .Locator("fieldset", new() { HasText = within })
            .Last.GetByLabel(Exactly(label))
            .First.ClickAsync();
        foreach (var item in items)
        {
            Actions.Text();
            Actions.Key();
            await Page.Keyboard.TypeAsync(item);
            await Page.Keyboard.PressAsync("Enter");
        }
    }

    public override Task SelectAsync(string label, string option, string? words = null)
    {
        Actions.Click();
        return Inspector.GetByLabel(Exactly(label)).SelectOptionAsync(option);
    }

    public override Task PressAsync(string button, string? within = null)
    {
        Actions.Click();
        return (within is null ? Inspector : Inspector.Locator("section,fieldset", new() { HasText = within }).Last)
            .GetByRole(AriaRole.Button, new() { NameRegex = new("^" + Regex.Escape(button)) })
            .First.ClickAsync();
    }

    public override Task TickAsync(string label)
    {
        Actions.Click();
        return Inspector.GetByLabel(Exactly(label)).ClickAsync();
    }
}

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
