namespace GateChain.Storage;

/// <summary>Something could not be stored. The message is a sentence for people.</summary>
public class StorageException(string message, Exception? inner = null) : Exception(message, inner);

/// <summary>
/// Something could not be read; the message says why in a sentence. What was asked may be asked again.
/// </summary>
public sealed class NotReadException(string message, Exception? inner) : StorageException(message, inner);
