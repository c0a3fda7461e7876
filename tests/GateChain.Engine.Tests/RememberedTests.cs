using GateChain.Engine.Basics;

namespace GateChain.Engine.Tests;

public class RememberedTests
{
    [Fact]
    public async Task WhatIsKeptIsReadOnceUntilItIsForgotten()
    {
        var reads = 0;
        var names = new Cache<string>(name => new($"{name} {++reads}"));
        Assert.Equal(
            ["a 1", "a 1", "b 2"],
            [await names.FindAsync("a"), await names.FindAsync("a"), await names.FindAsync("b")]
        );
        names.Forget();
        Assert.Equal("a 3", await names.FindAsync("a"));
    }

    [Fact]
    public async Task WhatIsNotThereIsAskedForAgain()
    {
        string? there = null;
        var names = new Cache<string>(_ => new(there));
        Assert.Null(await names.FindAsync("a"));
        there = "now";
        Assert.Equal("now", await names.FindAsync("a"));
    }

    // A push that ends while somebody still reads what was there before it.
    [Fact]
    public async Task WhatWasReadWhileItChangedIsNotKept()
    {
        Cache<string> names = null!;
        var stored = "old";
        names = new(_ =>
        {
            var read = stored;
            if (read == "old")
            {
                stored = "new";
                names.Forget();
            }
            return new(read);
        });
        Assert.Equal("old", await names.FindAsync("a"));
        Assert.Equal("new", await names.FindAsync("a"));
    }
}
