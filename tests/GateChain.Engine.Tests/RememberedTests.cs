using GateChain.Engine.Basics;

namespace GateChain.Engine.Tests;

public class RememberedTests
{
    [Fact]
    public void WhatIsKeptIsReadOnceUntilItIsForgotten()
    {
        var reads = 0;
        var names = new Remembered<string>(name => $"{name} {++reads}");
        Assert.Equal(["a 1", "a 1", "b 2"], [names.Find("a"), names.Find("a"), names.Find("b")]);
        names.Forget();
        Assert.Equal("a 3", names.Find("a"));
    }

    [Fact]
    public void WhatIsNotThereIsAskedForAgain()
    {
        string? there = null;
        var names = new Remembered<string>(_ => there);
        Assert.Null(names.Find("a"));
        there = "now";
        Assert.Equal("now", names.Find("a"));
    }

    // A push that ends while somebody still reads what was there before it.
    [Fact]
    public void WhatWasReadWhileItChangedIsNotKept()
    {
        Remembered<string> names = null!;
        var stored = "old";
        names = new(_ =>
        {
            var read = stored;
            if (read == "old")
            {
                stored = "new";
                names.Forget();
            }
            return read;
        });
        Assert.Equal("old", names.Find("a"));
        Assert.Equal("new", names.Find("a"));
    }
}
