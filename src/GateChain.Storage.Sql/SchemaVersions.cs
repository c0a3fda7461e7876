using System.Reflection;

namespace GateChain.Storage.Sql;

/// <summary>Which versions of Gate Chain a database is from: a script of the schema for each change.</summary>
static class SchemaVersions
{
    /// <summary>
    /// Refuses a database that a newer version has written: an older one would not find what is in it, and take it for
    /// not there.
    /// </summary>
    /// <param name="applied">The scripts that it has seen, in order.</param>
    /// <param name="scripts">What holds those that this version knows.</param>
    /// <param name="database">What it is called in the message.</param>
    /// <exception cref="StorageException">It has seen another one.</exception>
    public static void RefuseNewer(IEnumerable<string> applied, Assembly scripts, string database)
    {
        var known = scripts.GetManifestResourceNames();
        if (applied.FirstOrDefault(script => !known.Contains(script)) is { } newer)
        {
            throw new StorageException(
                $"the database {database} was written by a newer version of Gate Chain (it has the schema {newer}): "
                    + "use that version, or a backup from before it",
                null
            );
        }
    }

    /// <summary>Has an upgrade that did not work told.</summary>
    /// <exception cref="StorageException">It did not.</exception>
    public static void Hold(bool successful, Exception? error, string database)
    {
        if (!successful)
        {
            throw new StorageException(
                $"the schema of {database} can't be brought up to date: {error?.Message}",
                error
            );
        }
    }
}
