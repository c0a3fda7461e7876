using System.Globalization;

namespace GateChain.Core.Identity;

/// <summary>Why there is a run. Immutable.</summary>
public abstract record RunOrigin
{
    RunOrigin() { }

    /// <summary>
    /// Names the occasion when it can be told apart from all others: there is one run for it at most. Null when the
    /// same may be asked for again.
    /// </summary>
    public virtual string? Key => null;

    /// <summary>One word for people and lists.</summary>
    public abstract string Word { get; }

    /// <summary>Somebody started it.</summary>
    public sealed record Person : RunOrigin
    {
        public override string Word => "person";
    }

    /// <summary>A step of another run called it.</summary>
    /// <param name="Run">The calling run.</param>
    /// <param name="Step">The path of its call step.</param>
    /// <param name="Attempt">The number of the call's attempt among all attempts of its run.</param>
    public sealed record Call(long Run, string Step, int Attempt) : RunOrigin
    {
        public override string Key => string.Create(CultureInfo.InvariantCulture, $"call:{Run}:{Attempt}:{Step}");
        public override string Word => "call";
    }

    /// <summary>A trigger fired.</summary>
    /// <param name="Trigger">Its name.</param>
    /// <param name="Occasion">The key of the fire among those of its trigger.</param>
    public sealed record Fire(string Trigger, string Occasion) : RunOrigin
    {
        public override string Key => $"fire:{Trigger}:{Occasion}";
        public override string Word => "fire";
    }

    /// <summary>Somebody started an earlier run once more.</summary>
    /// <param name="Run">The earlier run.</param>
    public sealed record Restart(long Run) : RunOrigin
    {
        public override string Word => "restart";
    }

    /// <summary>Somebody tried a draft, or a part of one.</summary>
    public sealed record Try : RunOrigin
    {
        public override string Word => "try";
    }
}
