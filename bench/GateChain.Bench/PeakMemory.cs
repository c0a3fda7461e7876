using System.Globalization;

namespace GateChain.Bench;

/// <summary>The most memory that this process has had.</summary>
static class PeakMemory
{
    /// <summary>Gives back what rounds before have taken; the kernel begins again with the highest.</summary>
    public static void Forget()
    {
        GC.Collect(2, GCCollectionMode.Aggressive, blocking: true, compacting: true);
        File.WriteAllText("/proc/self/clear_refs", "5");
    }

    /// <summary>In MiB; the kernel keeps the highest.</summary>
    public static long MiB() =>
        long.Parse(
            File.ReadLines("/proc/self/status")
                .First(l => l.StartsWith("VmHWM", StringComparison.Ordinal))
                .Split(' ', StringSplitOptions.RemoveEmptyEntries)[^2],
            CultureInfo.InvariantCulture
        ) / 1024;
}
