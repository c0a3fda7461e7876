namespace GateChain.Kinds.Data;

/// <summary>What the values of a column are.</summary>
enum CellKind
{
    Text,
    Bool,
    Int,
    Decimal,
    Double,
    Date,
    Time,
    Timestamp,
    TimestampUtc,
    Bytes,
    Uuid,
    Json,
}

/// <summary>What a source says of a column.</summary>
/// <param name="Precision">Of a decimal: how many digits; 0 when it does not say.</param>
/// <param name="Scale">Of a decimal: how many of them behind the point.</param>
readonly record struct CellType(CellKind Kind, int Precision = 0, int Scale = 0)
{
    /// <summary>What a database calls a type, as one of ours; null for what has none.</summary>
    /// <param name="name">The database's word, perhaps with numbers in brackets.</param>
    public static CellType? Of(string name)
    {
        var open = name.IndexOf('(', StringComparison.Ordinal);
        var word = (open < 0 ? name : name[..open]).Trim().ToLowerInvariant();
        if (name.EndsWith(']') || word is "struct" or "map" or "union")
            return new(CellKind.Text);
        switch (word)
        {
            case "boolean" or "bool":
                return new(CellKind.Bool);
            case "tinyint"
            or "smallint"
            or "integer"
            or "int"
            or "bigint"
            or "int2"
            or "int4"
            or "int8"
            or "utinyint"
            or "usmallint"
            or "uinteger"
            or "mediumint":
                return new(CellKind.Int);
            case "hugeint" or "uhugeint":
                return new(CellKind.Decimal, 39);
            case "ubigint":
                return new(CellKind.Decimal, 20);
            case "numeric" or "decimal":
                var numbers = open < 0 ? [] : name[(open + 1)..].TrimEnd(')').Split(',');
                return new(CellKind.Decimal, Number(0), Number(1));
                int Number(int at) => numbers.Length > at && int.TryParse(numbers[at], out var n) ? n : 0;
            case "real" or "float" or "double" or "double precision" or "float4" or "float8":
                return new(CellKind.Double);
            case "date":
                return new(CellKind.Date);
            case "time" or "time without time zone":
                return new(CellKind.Time);
            case "timestamp"
            or "datetime"
            or "timestamp without time zone"
            or "timestamp_s"
            or "timestamp_ms"
            or "timestamp_ns":
                return new(CellKind.Timestamp);
            case "timestamptz" or "timestamp with time zone":
                return new(CellKind.TimestampUtc);
            case "bytea" or "blob" or "varbinary" or "binary" or "longblob" or "mediumblob" or "tinyblob":
                return new(CellKind.Bytes);
            case "uuid":
                return new(CellKind.Uuid);
            case "json" or "jsonb":
                return new(CellKind.Json);
            case "text"
            or "varchar"
            or "char"
            or "character varying"
            or "character"
            or "longtext"
            or "mediumtext"
            or "tinytext":
                return new(CellKind.Text);
            default:
                return null;
        }
    }
}
