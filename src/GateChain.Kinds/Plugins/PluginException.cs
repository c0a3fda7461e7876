namespace GateChain.Kinds.Plugins;

/// <summary>A plug-in can't be loaded.</summary>
/// <param name="where">Its file or folder.</param>
/// <param name="why">A sentence.</param>
public sealed class PluginException(string where, string why) : Exception($"{where}: {why}");
