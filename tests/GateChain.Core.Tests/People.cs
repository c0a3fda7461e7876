global using static GateChain.Core.Tests.People;
using GateChain.Core.Identity;

namespace GateChain.Core.Tests;

/// <summary>Those who do things to runs.</summary>
static class People
{
    public static readonly Actor Ann = Actor.Person("ann"),
        Bob = Actor.Person("bob");
}
