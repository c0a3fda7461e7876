using System.Data.Common;
using System.Globalization;
using System.Text;
using GateChain.Kinds.Data;
using MySqlConnector;

namespace GateChain.Kinds.Databases;

/// <summary>
/// LOAD DATA LOCAL of rows in memory. The server makes warnings of what would be errors, so any warning, and any other
/// number of rows than were sent, counts as a refusal.
/// </summary>
/// <remarks>Source: MariaDB and MySQL documentation, LOAD DATA.</remarks>
sealed class MySqlBulk(MySqlConnection connection, string table, IReadOnlyList<string> columns) : IBulkWriter
{
    static readonly UTF8Encoding Utf8 = new(encoderShouldEmitUTF8Identifier: false, throwOnInvalidBytes: true);

    public void Write(DbTransaction transaction, IEnumerable<object?[]> rows)
    {
        using var stream = new MemoryStream();
        var sent = 0;
        using (var text = new StreamWriter(stream, Utf8, 1 << 16, leaveOpen: true) { NewLine = "\n" })
        {
            foreach (var row in rows)
            {
                Write(text, row);
                sent++;
            }
        }
        stream.Position = 0;
        var loader = new MySqlBulkLoader(connection)
        {
            TableName = table,
            SourceStream = stream,
            Local = true,
            CharacterSet = "utf8mb4",
            FieldTerminator = "\t",
            LineTerminator = "\n",
            EscapeCharacter = '\\',
            FieldQuotationCharacter = '\0',
            Timeout = 0,
        };
        loader.Columns.AddRange(columns);
        int taken;
        try
        {
            taken = loader.Load();
        }
        catch (MySqlException e) when (e.Number is 1148 or 3948 or 4166)
        {
            throw new NotTakenException("the server does not allow LOAD DATA LOCAL; its local_infile is off");
        }
        using var warnings = new MySqlCommand("SHOW COUNT(*) WARNINGS", connection, (MySqlTransaction)transaction);
        if (taken != sent || Convert.ToInt64(warnings.ExecuteScalar(), CultureInfo.InvariantCulture) > 0)
            throw new NotTakenException($"of {sent} rows {taken} were taken, or some with warnings");
    }

    static void Write(TextWriter text, object?[] row)
    {
        for (var c = 0; c < row.Length; c++)
        {
            if (c > 0)
                text.Write('\t');
            switch (row[c])
            {
                case null:
                    text.Write("\\N");
                    break;
                case bool b:
                    text.Write(b ? '1' : '0');
                    break;
                case DateTime t:
                    text.Write(t.ToString("yyyy-MM-dd HH:mm:ss.FFFFFF", CultureInfo.InvariantCulture));
                    break;
                case double d when !double.IsFinite(d):
                    throw new NotTakenException($"the database has no number {Cells.Double(d)}");
                // Texts have a character set, and bytes have none.
                case byte[]:
                    throw new NotTakenException("bytes go another way");
                case var other:
                    TabText.Write(text, Cells.Text(other));
                    break;
            }
        }
        text.Write('\n');
    }
}
