using System.Text.Json.Serialization;
using GateChain.Core.Chains;
using GateChain.Core.Running;
using GateChain.Core.Running.Events;
using GateChain.Core.Values;
using GateChain.Engine.Basics;
using GateChain.Engine.Sharing;

namespace GateChain.Engine.Runs;

/// <summary>What somebody decides about a run, for whichever node has it.</summary>
/// <param name="Run">The run.</param>
/// <param name="By">Who decides.</param>
[JsonDerivedType(typeof(Stop), "stop")]
[JsonDerivedType(typeof(Pause), "pause")]
[JsonDerivedType(typeof(Answer), "answer")]
[JsonDerivedType(typeof(Cancel), "cancel")]
[JsonDerivedType(typeof(Hold), "hold")]
[JsonDerivedType(typeof(Gone), "gone")]
[JsonDerivedType(typeof(Resume), "resume")]
[JsonDerivedType(typeof(Recover), "recover")]
abstract record RunOrder(long Run, FarActor By)
{
    public sealed record Stop(long Run, FarActor By, string? Message) : RunOrder(Run, By);

    public sealed record Pause(long Run, FarActor By, string? Message) : RunOrder(Run, By);

    public sealed record Answer(long Run, FarActor By, string Path, PauseAnswer Given, Value Outputs, string? Message)
        : RunOrder(Run, By);

    public sealed record Cancel(long Run, FarActor By, string Path, Outcome Outcome, Value Outputs, string? Message)
        : RunOrder(Run, By);

    public sealed record Hold(long Run, FarActor By, string Path, HoldAnswer Given, string? Message)
        : RunOrder(Run, By);

    public sealed record Gone(long Run, FarActor By, string Path) : RunOrder(Run, By);

    public sealed record Resume(long Run, FarActor By, ResumeOptions Options, bool Automatic) : RunOrder(Run, By);

    public sealed record Recover(long Run, FarActor By) : RunOrder(Run, By);
}
