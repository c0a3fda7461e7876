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

    public ILocator Step(string address) => Page.Locator($"[data-step='{address}']");

    public ILocator Gate(string from, string to) => Page.Locator($"[data-gate='{from}-{to}']");

    public ILocator Inspector => Page.Locator(".inspector");

    /// <summary>Adds a step of a kind behind another; null for none. Gives the id it got.</summary>
    public abstract Task<string> AddAsync(string kind, string? after, string? into = null);

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

    public abstract Task SelectAsync(string label, string option);
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

/// <summary>Drags, clicks, and types into what was clicked.</summary>
sealed class MouseDesigner(IPage page) : DesignerPage(page)
{
    public override async Task<string> AddAsync(string kind, string? after, string? into = null)
    {
        var item = Page.Locator(".palette .kind", new() { Has = Page.Locator($"b:text-is('{kind}')") });
        var before = await Page.Locator(".step, .container").CountAsync();
        await StandsStillAsync();
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
                Step(into),
                new()
                {
                    TargetPosition = new() { X = 60, Y = 75 },
                }
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
        await Expect(Page.Locator(".step, .container")).ToHaveCountAsync(before + 1);
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
        await Inspector.GetByRole(AriaRole.Button, new() { Name = "Rename…" }).First.ClickAsync();
        await Page.GetByLabel("New name", new() { Exact = true }).FillAsync(to);
        await Page.GetByRole(AriaRole.Button, new() { Name = "Rename", Exact = true }).ClickAsync();
        await Expect(Page.GetByRole(AriaRole.Dialog)).ToHaveCountAsync(0);
    }

    public override async Task ConnectAsync(string from, string to)
    {
        await StandsStillAsync();
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
        await Step(address).Locator(".title").First.ClickAsync();
        await Expect(Inspector.Locator(".idword").First).ToHaveTextAsync(address);
    }

    public override async Task ChooseGateAsync(string from, string to)
    {
        await StandsStillAsync();
        await Gate(IdOf(from), to).Locator("button").ClickAsync();
        await Expect(Inspector.Locator(".idword").First).ToHaveTextAsync($"{IdOf(from)} → {to}");
    }

    public override Task ChooseChainAsync() =>
        Page.Locator(".react-flow__pane")
            .ClickAsync(
                new()
                {
                    Position = new() { X = 20, Y = 20 },
                }
            );

    public override async Task FillAsync(string label, string text, string? within = null)
    {
        var field = (within is null ? Inspector : Inspector.Locator("fieldset", new() { HasText = within }).Last)
            .GetByLabel(Exactly(label))
            .First;
        await field.ClickAsync();
        await Page.Keyboard.PressAsync("Control+A");
        await Page.Keyboard.TypeAsync(text);
        await Page.Keyboard.PressAsync("Escape");
    }

    public override Task SelectAsync(string label, string option) =>
        Inspector.GetByLabel(Exactly(label)).SelectOptionAsync(option);

    public override Task PressAsync(string button, string? within = null) =>
        (within is null ? Inspector : Inspector.Locator("section,fieldset", new() { HasText = within }).Last)
            .GetByRole(AriaRole.Button, new() { NameRegex = new("^" + Regex.Escape(button)) })
            .First.ClickAsync();

    public override Task TickAsync(string label) => Inspector.GetByLabel(Exactly(label)).ClickAsync();
}

/// <summary>Never touches the mouse: keys of the canvas, Tab to the fields.</summary>
sealed class KeyboardDesigner(IPage page) : DesignerPage(page)
{
    async Task ToCanvasAsync()
    {
        // Escape leads back from the inspector; from elsewhere Tab goes there.
        for (var i = 0; i < 80 && !await FocusIsAsync(".designcanvas"); i++)
            await Page.Keyboard.PressAsync(i == 0 ? "Escape" : "Tab");
        Assert.True(await FocusIsAsync(".designcanvas"), "the canvas can't be reached");
    }

    Task<bool> FocusIsAsync(string selector) =>
        Page.EvaluateAsync<bool>("s => document.activeElement?.matches(s) === true", selector);

    public override async Task<string> AddAsync(string kind, string? after, string? into = null)
    {
        if (after is not null || into is not null)
        {
            await ChooseAsync((after ?? into)!);
        }
        else
        {
            await ToCanvasAsync();
            await Page.Keyboard.PressAsync("Escape");
        }
        var before = await Page.Locator(".step, .container").CountAsync();
        await Page.Keyboard.PressAsync("a");
        await PickAsync(kind);
        await Expect(Page.Locator(".step, .container")).ToHaveCountAsync(before + 1);
        return await ChosenAsync(kind);
    }

    // Into the list that has just opened.
    async Task PickAsync(string text)
    {
        await Expect(Page.Locator("input[role=combobox]")).ToBeFocusedAsync();
        await Page.Keyboard.TypeAsync(text);
        await Page.Keyboard.PressAsync("Enter");
        await Expect(Page.GetByRole(AriaRole.Dialog)).ToHaveCountAsync(0);
        await Expect(Page.Locator(".designcanvas")).ToBeFocusedAsync();
    }

    public override async Task RenameAsync(string address, string to)
    {
        await ChooseAsync(address);
        await Page.Keyboard.PressAsync("F2");
        await Expect(Page.GetByLabel("New name", new() { Exact = true })).ToBeFocusedAsync();
        await Page.Keyboard.PressAsync("Control+A");
        await Page.Keyboard.TypeAsync(to);
        await Expect(Page.GetByRole(AriaRole.Button, new() { Name = "Rename", Exact = true })).ToBeEnabledAsync();
        await Page.Keyboard.PressAsync("Enter");
        await Expect(Page.GetByRole(AriaRole.Dialog)).ToHaveCountAsync(0);
        await Expect(Page.Locator(".designcanvas")).ToBeFocusedAsync();
    }

    public override async Task ConnectAsync(string from, string to)
    {
        await ChooseAsync(from);
        await Page.Keyboard.PressAsync("g");
        await PickAsync(to);
        await Expect(Inspector.Locator(".kindword").First).ToHaveTextAsync("gate");
    }

    public override async Task ChooseAsync(string address)
    {
        await ToCanvasAsync();
        await Page.Keyboard.PressAsync("Control+f");
        await PickAsync(address);
        await Expect(Inspector.Locator(".idword").First).ToHaveTextAsync(address);
    }

    public override async Task ChooseGateAsync(string from, string to)
    {
        await ChooseAsync(from);
        await Page.Keyboard.PressAsync("Enter");
        await TabToAsync($"to {to}", "button");
        await Page.Keyboard.PressAsync("Enter");
        await Expect(Inspector.Locator(".idword").First).ToHaveTextAsync($"{IdOf(from)} → {to}");
    }

    public override async Task ChooseChainAsync()
    {
        await ToCanvasAsync();
        await Page.Keyboard.PressAsync("Escape");
    }

    public override async Task FillAsync(string label, string text, string? within = null)
    {
        await TabToAsync(label, "field", within);
        await Page.Keyboard.PressAsync("Control+A");
        await Page.Keyboard.TypeAsync(text);
        await Page.Keyboard.PressAsync("Escape");
    }

    public override async Task SelectAsync(string label, string option)
    {
        await TabToAsync(label, "field");
        // A choice is made by typing how it begins.
        await Page.Keyboard.TypeAsync(option);
    }

    public override async Task PressAsync(string button, string? within = null)
    {
        await TabToAsync(button, "button", within);
        await Page.Keyboard.PressAsync("Enter");
    }

    public override async Task TickAsync(string label)
    {
        await TabToAsync(label, "field");
        await Page.Keyboard.PressAsync("Space");
    }

    const string Name = """
        within => {
          const e = document.activeElement; if (!e || !e.closest('.inspector')) return '';
          if (within && !e.closest('section,fieldset')?.textContent.includes(within)) return '';
          const by = e.getAttribute('aria-labelledby'); const named = by ? document.getElementById(by)?.textContent : null;
          const seen = n => { const c = n.cloneNode(true); c.querySelectorAll('[aria-hidden]').forEach(h => h.remove()); return c.textContent; };
          return (e.getAttribute('aria-label') ?? named ?? (e.labels?.[0]?.textContent) ?? seen(e) ?? '').replace(/\s*\*$/, '').replace(/\s+/g, ' ').trim();
        }
        """;

    // Goes from field to field until the wanted one has the focus; it must be reachable that way.
    async Task TabToAsync(string name, string what, string? within = null)
    {
        if (
            !await Page.EvaluateAsync<bool>(
                "() => document.activeElement?.closest('.inspector') !== null && "
                    + "document.activeElement?.closest('.inspector') !== undefined"
            )
        )
        {
            await ToInspectorAsync();
        }
        var seen = new List<string>();
        for (var i = 0; i < 160; i++)
        {
            var at = await Page.EvaluateAsync<string>(Name, within);
            if (what == "button" ? at.StartsWith(name, StringComparison.Ordinal) : at == name)
                return;
            if (at.Length > 0)
                seen.Add(at);
            // Behind the last field it continues from the first.
            await Page.Keyboard.PressAsync("Tab");
            if (!await Page.EvaluateAsync<bool>("() => !!document.activeElement?.closest('.inspector')"))
                await ToInspectorAsync();
        }
        Assert.Fail($"“{name}” can't be reached by Tab; reached: {string.Join(" | ", seen.Distinct())}");
    }

    async Task ToInspectorAsync()
    {
        await ToCanvasAsync();
        await Page.Keyboard.PressAsync("i");
        await Expect(Inspector.Locator(":focus")).ToHaveCountAsync(1);
    }
}
