namespace GateChain.Kinds.Databases;

/// <summary>The types of connections that lead to a database.</summary>
static class DatabaseTypes
{
    /// <summary>Their names, with a blank between, as settings declare what they take.</summary>
    public const string All = "sqlite postgresql mysql sqlserver duckdb";
}
