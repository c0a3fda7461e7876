using System.IO.Compression;
using System.Security;

namespace GateChain.Kinds.Tests.Load;

/// <summary>Writes the smallest workbook there can be: texts, and numbers where a cell is one.</summary>
static class Workbook
{
    public static void Write(string path, params IReadOnlyList<(string Name, string[][] Rows)> sheets)
    {
        using var zip = ZipFile.Open(path, ZipArchiveMode.Create);
        const string Main = "http://schemas.openxmlformats.org/spreadsheetml/2006/main",
            Relations = "http://schemas.openxmlformats.org/officeDocument/2006/relationships",
            Package = "http://schemas.openxmlformats.org/package/2006";
        Part(
            "[Content_Types].xml",
            $"""<Types xmlns="{Package}/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/><Override PartName="/xl/workbook.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml"/>{Each(i => $"""<Override PartName="/xl/sheet{i}.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.worksheet+xml"/>""")}</Types>"""
        );
        Part(
            "_rels/.rels",
            $"""<Relationships xmlns="{Package}/relationships"><Relationship Id="r1" Type="{Relations}/officeDocument" Target="xl/workbook.xml"/></Relationships>"""
        );
        Part(
            "xl/workbook.xml",
            $"""<workbook xmlns="{Main}" xmlns:r="{Relations}"><sheets>{Each(i => $"""<sheet name="{sheets[i - 1].Name}" sheetId="{i}" r:id="s{i}"/>""")}</sheets></workbook>"""
        );
        Part(
            "xl/_rels/workbook.xml.rels",
            $"""<Relationships xmlns="{Package}/relationships">{Each(i => $"""<Relationship Id="s{i}" Type="{Relations}/worksheet" Target="sheet{i}.xml"/>""")}</Relationships>"""
        );
        for (var s = 1; s <= sheets.Count; s++)
        {
            Part(
                $"xl/sheet{s}.xml",
                $"""<worksheet xmlns="{Main}"><sheetData>{string.Concat(sheets[s - 1].Rows.Select((row, r) => $"""<row r="{r + 1}">{string.Concat(row.Select((cell, c) => Cell(cell, $"{(char)('A' + c)}{r + 1}")))}</row>"""))}</sheetData></worksheet>"""
            );
        }

        string Each(Func<int, string> write) => string.Concat(Enumerable.Range(1, sheets.Count).Select(write));

        void Part(string name, string text)
        {
            using var writer = new StreamWriter(zip.CreateEntry(name).Open());
            writer.Write("""<?xml version="1.0" encoding="UTF-8" standalone="yes"?>""" + text);
        }
    }

    // Numbers have 15 sure digits in a workbook; who needs more writes a text.
    static string Cell(string text, string at) =>
        text.Count(char.IsAsciiDigit) <= 15
        && double.TryParse(text, System.Globalization.CultureInfo.InvariantCulture, out _)
            ? $"""<c r="{at}"><v>{text}</v></c>"""
            : $"""<c r="{at}" t="inlineStr"><is><t>{SecurityElement.Escape(text)}</t></is></c>""";
}
