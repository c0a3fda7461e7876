using System.Xml;
using GateChain.Core.Values;
using GateChain.Kinds.Contract;

namespace GateChain.Kinds.Load.Sources;

/// <summary>
/// An XML document; each element of a name is a row. Its attributes are columns <c>@name</c>, the texts of elements in
/// it <c>name</c> or <c>inner/name</c>, and its own text is <c>.</c>. Names have no prefixes. Definitions of types are
/// refused: nothing is fetched, and nothing grows.
/// </summary>
/// <remarks>Source: Extensible Markup Language 1.0, Namespaces in XML 1.0.</remarks>
sealed class XmlSource : FileSource
{
    const int Most = 16 << 20;

    readonly XmlReader _reader;
    readonly string _rowName;
    readonly Dictionary<string, int> _columns;
    readonly object?[] _row;
    Reject? _broken;
    long _line;

    /// <param name="open">The file.</param>
    /// <param name="wanted">The names that are asked for; none for all that there are.</param>
    public XmlSource(OpenText open, IReadOnlyList<string> wanted)
        : base(open.Name, open.Path)
    {
        try
        {
            _rowName = open.From.Row
                ?? throw new StepFailedException(
                    "setting",
                    "“row” has to say which elements of the XML file are rows",
                    "For example: row: farm"
                );
            _reader = XmlReader.Create(
                open.Unpack(Stream),
                new()
                {
                    DtdProcessing = DtdProcessing.Prohibit,
                    XmlResolver = null,
                    IgnoreComments = true,
                    IgnoreProcessingInstructions = true,
                    CloseInput = true,
                }
            );
            Names = wanted.Count > 0 ? wanted : AllNames(open);
        }
        catch
        {
            Stream.Dispose();
            throw;
        }
        _columns = Names.Select((n, i) => (n, i)).ToDictionary(c => c.n, c => c.i);
        _row = new object?[Names.Count];
    }

    static List<string> AllNames(OpenText open)
    {
        using var first = new XmlSource(open, ["-"]);
        var names = new OrderedDictionary<string, bool>();
        while (first.Next((name, _) => names.TryAdd(name, true))) { }
        return [.. names.Keys];
    }

    public override IReadOnlyList<string> Names { get; }
    public override Reject? Broken => _broken;

    // Where its element begins.
    public override long LineOf(long row) => _line;

    public override string RowWord => "line";

    public override bool Read()
    {
        Array.Clear(_row);
        _broken = null;
        return Next(Put);
    }

    void Put(string name, string text)
    {
        if (!_columns.TryGetValue(name, out var column))
            return;
        if (_row[column] is not null)
            _broken ??= new($"the row has {name} twice", name, Shorten.Text(text, 200));
        _row[column] = text;
    }

    // Goes through the next row; false when there is none.
    bool Next(Action<string, string> put)
    {
        try
        {
            while (_reader.Read())
            {
                if (_reader.NodeType != XmlNodeType.Element || _reader.LocalName != _rowName)
                    continue;
                _line = ((IXmlLineInfo)_reader).LineNumber;
                Take(put);
                return true;
            }
            return false;
        }
        catch (Exception e) when (e is XmlException or InvalidDataException)
        {
            throw new StepFailedException(
                "xml",
                $"{What} can't be read: {e.Message}",
                "Nothing was loaded. One mistake spoils the whole document."
            );
        }
    }

    void Take(Action<string, string> put)
    {
        var way = new List<string>();
        var text = new System.Text.StringBuilder();
        var inner = false;
        Attributes("", put);
        if (_reader.IsEmptyElement)
            return;
        var depth = _reader.Depth;
        while (_reader.Read())
        {
            switch (_reader.NodeType)
            {
                case XmlNodeType.Element:
                    way.Add(_reader.LocalName);
                    Attributes(string.Join('/', way) + "/", put);
                    text.Clear();
                    inner = false;
                    if (_reader.IsEmptyElement)
                    {
                        way.RemoveAt(way.Count - 1);
                        inner = true;
                    }
                    break;
                case XmlNodeType.Text or XmlNodeType.CDATA or XmlNodeType.SignificantWhitespace:
                    text.Append(_reader.Value);
                    if (text.Length > Most)
                        throw new InvalidDataException($"a text has more than {Most >> 20} Mi characters");
                    break;
                case XmlNodeType.EndElement when _reader.Depth == depth:
                    if (!inner && text.Length > 0)
                        put(".", text.ToString());
                    return;
                case XmlNodeType.EndElement:
                    // One with others in it has no text of its own.
                    if (!inner)
                        put(string.Join('/', way), text.ToString());
                    text.Clear();
                    way.RemoveAt(way.Count - 1);
                    inner = true;
                    break;
            }
        }
    }

    void Attributes(string before, Action<string, string> put)
    {
        for (var more = _reader.MoveToFirstAttribute(); more; more = _reader.MoveToNextAttribute())
        {
            if (_reader.NamespaceURI != "http://www.w3.org/2000/xmlns/")
                put($"{before}@{_reader.LocalName}", _reader.Value);
        }
        _reader.MoveToElement();
    }

    public override object? this[int column] => _row[column];

    public override void Dispose()
    {
        _reader?.Dispose();
        base.Dispose();
    }
}
