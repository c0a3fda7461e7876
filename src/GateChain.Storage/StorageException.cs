namespace GateChain.Storage;

/// <summary>Something could not be stored. The message is a sentence for people.</summary>
public sealed class StorageException(string message, Exception? inner = null) : Exception(message, inner);
