using System.Text.RegularExpressions;
using Microsoft.Playwright;
using static Microsoft.Playwright.Assertions;

namespace GateChain.EndToEnd.Console;

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
        await Page.Locator(".palette").GetByLabel(occasion).ClickAsync();
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
