namespace GateChain.Storage;

/// <summary>Something could not be stored. The message is a sentence for people.</summary>
public class StorageException(string message, Exception? inner = null) : Exception(message, inner);

/// <summary>
/// The journal of a run is not what was written: the disk has changed it. Other runs have nothing to do with it.
/// </summary>
public sealed class DamagedRunException(long run, string what)
    : FormatException(
        $"{what} of run {run} is not what was written: the disk has changed it. `gatechain verify` tells what else is "
            + "damaged; a backup has it as it was"
    );

/// <summary>
/// Something could not be read; the message says why in a sentence. What was asked may be asked again.
/// </summary>
public sealed class NotReadException(string message, Exception? inner) : StorageException(message, inner);
