using System.Diagnostics;
using System.Globalization;
using System.Text;
using GateChain.Core.Values;
using GateChain.Engine.Triggers;
using GateChain.Storage;

namespace GateChain.Engine.Tests.Triggers;

/// <summary>A house with triggers in it, and what tests ask of it.</summary>
sealed class TriggerHouse : IAsyncDisposable
{
    /// <summary>A chain that does nothing.</summary>
    public const string Chain = "chain: t\nparams: { x: { type: any, default: 0 } }\nsteps: { a: { kind: count } }";

    TriggerHouse(string? at) => House = new(at: at is null ? null : Moment(at));

    public House House { get; }

    public ChainEngine Engine => House.Engine;

    /// <summary>A house whose clock shows some moment, with these files; its triggers wait.</summary>
    public static async Task<TriggerHouse> OpenAsync(string triggers, string chain = Chain, string? at = null)
    {
        var house = new TriggerHouse(at);
        await house.PushAsync(triggers, chain);
        await house.Engine.StartAsync();
        return house;
    }

    public static DateTimeOffset Moment(string text) =>
        DateTimeOffset.Parse(text, CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal);

    /// <summary>Brings chains and triggers; more files by name.</summary>
    public async Task PushAsync(string triggers, string chain = Chain, params (string Name, string Text)[] more)
    {
        var files = new Dictionary<string, byte[]> { ["triggers.yaml"] = Encoding.UTF8.GetBytes(triggers) };
        foreach (var (text, i) in chain.Split("\n---\n").Select((c, i) => (c, i)))
            files[$"c{i}.chain.yaml"] = Encoding.UTF8.GetBytes(text);
        foreach (var (name, text) in more)
            files[name] = Encoding.UTF8.GetBytes(text);
        var workspace = await Engine.Workspace.PushAsync(files, Ann);
        Assert.False(workspace.HasErrors, string.Join("\n", workspace.Problems));
    }

    /// <summary>
    /// Turns the clock to a moment with somebody there all the time, and waits until schedules have looked.
    /// </summary>
    public async Task TurnToAsync(string at)
    {
        var to = Moment(at);
        while (House.Clock.GetUtcNow() < to)
        {
            var due = Engine
                .Triggers.All.Where(t => t.IsArmed)
                .SelectMany(t => ScheduleClock.Next(t, House.Clock.GetUtcNow()).Take(1))
                .Select(n => n.At)
                .Append(to)
                .Min();
            // Somebody is there a little before: nothing is missed.
            await LeapAsync(due.AddSeconds(-1));
            await LeapAsync(due);
        }
    }

    async Task LeapAsync(DateTimeOffset to)
    {
        if (to > House.Clock.GetUtcNow())
            House.Clock.SetUtcNow(to);
        await LookedAsync();
    }

    /// <summary>Turns the clock to a moment at once, as if nobody had been there.</summary>
    public async Task LeapToAsync(string at)
    {
        House.Clock.SetUtcNow(Moment(at));
        await LookedAsync();
    }

    public async Task LookedAsync()
    {
        var now = House.Clock.GetUtcNow();
        Engine.Schedules.Ring();
        await UntilAsync(() => Task.FromResult(Engine.Schedules.LookedAt >= now), "schedules have looked");
    }

    /// <summary>Waits until something holds.</summary>
    public static async Task UntilAsync(Func<Task<bool>> holds, string what)
    {
        var patience = Stopwatch.StartNew();
        while (!await holds())
        {
            Assert.True(patience.Elapsed < TimeSpan.FromMinutes(1), $"in vain: {what}");
            await Task.Delay(5);
        }
    }

    /// <summary>Fires of a trigger in words, oldest first.</summary>
    public async Task<IReadOnlyList<string>> FiresAsync(string? trigger = null, string what = "key") =>
        [.. (await House.Store.Triggers.ListAsync(new(trigger, Limit: 1000))).Reverse().Select(f => Words(f, what))];

    static string Words(StoredFire fire, string what)
    {
        var shown =
            what == "key" ? fire.Said.Key
            : ValueJson.TryParse(fire.Said.Event, exact: true)!.Value.AsMap.Find(what) is { } value
                ? ValueText.Show(value, 200)
            : "-";
        return fire.Said.Fate == FireFate.Started
            ? $"{shown} run {fire.Run}"
            : $"{shown} {fire.Said.Fate}: {fire.Said.Why}";
    }

    /// <summary>Waits until there are so many fires of a trigger; gives them.</summary>
    public async Task<IReadOnlyList<string>> WaitForAsync(int count, string trigger, string what = "key")
    {
        await UntilAsync(async () => (await FiresAsync(trigger, what)).Count >= count, $"{count} fires of {trigger}");
        return await FiresAsync(trigger, what);
    }

    /// <summary>The parameter x of a run.</summary>
    public Task<Value> ParamAsync(long run, string name = "x") =>
        Engine.Reader.ReadAsync(run, (s, _) => s.Params.Find(name)!.Value);

    public ValueTask DisposeAsync() => House.DisposeAsync();
}
