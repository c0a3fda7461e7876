using System.Globalization;
using GateChain.EndToEnd.House;
using Microsoft.Playwright;

namespace GateChain.EndToEnd.Console;

/// <summary>
/// Somebody who types with pauses in any field of any kind keeps the keyboard and the text. GATECHAIN_PAUSES sets the
/// pauses, in milliseconds: more of them in the long tests.
/// </summary>
public sealed class TypingTests : BrowserTests
{
    const int Pages = 4;

    static readonly int[] Pauses =
    [
        .. (Environment.GetEnvironmentVariable("GATECHAIN_PAUSES") ?? "300")
            .Split(',')
            .Select(p => int.Parse(p, CultureInfo.InvariantCulture)),
    ];

    // What all kinds share is walked once, unless there is time.
    static readonly bool IsLong = Environment.GetEnvironmentVariable("GATECHAIN_PAUSES") is not null;
    const string OwnSection = "What it does";

    readonly System.Collections.Concurrent.ConcurrentDictionary<string, bool> _shared = new();

    private protected override Task<Service> ServiceAsync() => Service.WithDemoAsync();

    [Fact]
    public async Task EveryFieldOfEveryKindKeepsTheKeyboardAndTheText()
    {
        var kinds = new Queue<string>((await _service.Client.KindsAsync()).Steps.Select(k => k.Name));
        var walked = 0;
        await Task.WhenAll(Enumerable.Range(0, Pages).Select(_ => WalkAsync()));
        // Fewer would mean that forms were not found.
        Assert.True(walked > (IsLong ? 250 : 80), $"only {walked} fields were walked");
        TestContext.Current.SendDiagnosticMessage($"typing: {walked} fields, pauses of {string.Join(", ", Pauses)} ms");

        async Task WalkAsync()
        {
            var page = await _browser.PageAsync();
            while (true)
            {
                string kind;
                lock (kinds)
                {
                    if (!kinds.TryDequeue(out kind!))
                        return;
                }
                var found = await WalkKindAsync(page, kind);
                Interlocked.Add(ref walked, found);
            }
        }
    }

    static string Chain(string kind) =>
        $$"""
            chain: walk-{{kind.ToLowerInvariant()}}
            vars: { n: { type: int, initial: 0 } }
            steps:
              a:
                kind: {{kind}}
                guard:
                  probes: { p: { kind: file, path: x } }
                  rules: [ { when: "true", verdict: hold, recheck: 5s, limit: 3, then: skip, message: m } ]
                  otherwise: { verdict: proceed }
                retry: { limit: 1, wait: 1s, factor: 2, max: 5s, jitter: 0.1, when: "true" }
                timeout: 1h
                expect: [ { when: "true", verdict: warn, message: m } ]
                assign: { vars.n: "1" }
            """;

    async Task<int> WalkKindAsync(IPage page, string kind)
    {
        var name = $"walk-{kind.ToLowerInvariant()}";
        await _service.Client.SaveDraftAsync(name, 0, Chain(kind));
        await page.GotoAsync($"/chains/{name}/design?step=a");
        await page.Locator(".inspector .idword").WaitForAsync();
        var done = new HashSet<string>();
        await WalkFieldsAsync(page, kind, done);
        for (
            var question = 0;
            question < await page.Locator(".inspector select[data-question]").CountAsync();
            question++
        )
        {
            var select = page.Locator(".inspector select[data-question]").Nth(question);
            foreach (
                var option in await select.Locator("option").EvaluateAllAsync<string[]>("o => o.map(x => x.value)")
            )
            {
                if (option.Length == 0)
                    continue;
                await select.SelectOptionAsync(option);
                await WalkFieldsAsync(page, kind, done);
            }
        }
        return done.Count;
    }

    const string Fields = """
        () => {
          const all = [...document.querySelectorAll('.inspector input, .inspector textarea, .inspector .cm-content')];
          const text = e => !e.matches('input') || ['text', 'search', ''].includes(e.type);
          return all.filter(e => text(e) && e.offsetParent !== null && !e.readOnly).map((e, i) => {
            e.dataset.walk = String(i);
            const by = e.getAttribute('aria-labelledby')?.split(' ').map(b => document.getElementById(b)?.textContent).join(' ');
            const name = e.getAttribute('aria-label') ?? by ?? e.labels?.[0]?.textContent ?? e.placeholder;
            const around = [...(function* () { for (let p = e.parentElement; p; p = p.parentElement) if (p.matches('fieldset,section')) yield p.querySelector('legend,h3')?.textContent; })()];
            return [String(i), [name, ...around].join(' < ')];
          });
        }
        """;

    async Task WalkFieldsAsync(IPage page, string kind, HashSet<string> done)
    {
        // Everything that is folded is opened.
        for (var i = 0; i < 40; i++)
        {
            var shut = page.Locator(
                ".inspector section h3 > button[aria-expanded=false], .inspector .linkbutton.more[aria-expanded=false]"
            );
            if (await shut.CountAsync() == 0)
                break;
            await shut.First.ClickAsync();
        }
        foreach (var pair in await page.EvaluateAsync<string[][]>(Fields))
        {
            var (mark, name) = (pair[0], pair[1]);
            // The id is taken when the field is left, and renames the step.
            if (name.StartsWith("Id", StringComparison.Ordinal) || !done.Add(name))
                continue;
            if (!IsLong && !name.Contains(OwnSection, StringComparison.Ordinal) && !_shared.TryAdd(name, true))
            {
                done.Remove(name);
                continue;
            }
            var field = page.Locator($".inspector [data-walk='{mark}']");
            if (await field.CountAsync() == 0)
                continue;
            await field.FocusAsync();
            var element = await field.ElementHandleAsync();
            await page.Keyboard.PressAsync("End");
            var typed = "";
            foreach (var pause in Pauses)
            {
                await page.Keyboard.TypeAsync("1");
                typed += "1";
                await Task.Delay(pause);
                var (has, text) = await StateAsync(page, element);
                Assert.True(has, $"{kind}: “{name}” lost the keyboard after {pause} ms");
                Assert.True(
                    text.Contains(typed, StringComparison.Ordinal),
                    $"{kind}: “{name}” has “{text}” after “{typed}” was typed, with a pause of {pause} ms"
                );
            }
        }
    }

    static async Task<(bool Has, string Text)> StateAsync(IPage page, IElementHandle element)
    {
        var found = await page.EvaluateAsync<string[]>(
            "e => [String(e === document.activeElement && e.isConnected), e.value ?? e.textContent ?? '']",
            element
        );
        return (found[0] == "true", found[1]);
    }
}
