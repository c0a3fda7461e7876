namespace GateChain.Kinds.Databases;

/// <summary>
/// Fields between tabs, lines between line feeds, both marked by a backslash within a field: what PostgreSQL and MySQL
/// read at the same speed as their own files.
/// </summary>
static class TabText
{
    public static void Write(TextWriter writer, string text)
    {
        if (text.AsSpan().IndexOfAny("\t\n\r\\") < 0)
        {
            writer.Write(text);
            return;
        }
        foreach (var c in text)
        {
            switch (c)
            {
                case '\t':
                    writer.Write("\\t");
                    break;
                case '\n':
                    writer.Write("\\n");
                    break;
                case '\r':
                    writer.Write("\\r");
                    break;
                case '\\':
                    writer.Write("\\\\");
                    break;
                default:
                    writer.Write(c);
                    break;
            }
        }
    }
}
