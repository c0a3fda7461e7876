global using static GateChain.Engine.Tests.People;
using GateChain.Core.Identity;

namespace GateChain.Engine.Tests;

/// <summary>Those who do things to runs.</summary>
static class People
{
    public static readonly Actor Ann = Actor.Person("ann"),
        Bob = Actor.Person("bob");
}
