using System.Globalization;

namespace GateChain.Storage.Sql;

/// <summary>Moments as the database has them: text that sorts as they do.</summary>
static class Times
{
    public static DateTimeOffset Of(string text) =>
        DateTimeOffset.Parse(text, CultureInfo.InvariantCulture, DateTimeStyles.RoundtripKind);

    /// <summary>The same of moments that may come with another offset.</summary>
    public static string Utc(DateTimeOffset time) => Text(time.ToUniversalTime());

    public static string Text(DateTimeOffset time) => time.ToString("O", CultureInfo.InvariantCulture);
}
