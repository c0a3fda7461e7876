using System.Globalization;
using GateChain.Core.Chains.Reading;
using GateChain.Core.Chains.Source;
using GateChain.Core.Expressions;
using GateChain.Core.Problems;

namespace GateChain.Core.Scheduling.Calendars;

/// <summary><c>calendars.yaml</c>: named sets of days. Immutable once read. Thread-safe.</summary>
public sealed class CalendarsFile
{
    readonly Dictionary<string, Calendar> _calendars = [];

    /// <summary>There are none.</summary>
    public static CalendarsFile None { get; } = new();

    /// <summary>Their names, those of outer folders first.</summary>
    public IEnumerable<string> Names => _calendars.Keys;

    /// <summary>The calendar of a name; null when there is none.</summary>
    public Calendar? Find(string name) => _calendars.GetValueOrDefault(name);

    /// <summary>Reads the file; what is wrong goes to <paramref name="problems"/>.</summary>
    /// <param name="text">Its content.</param>
    /// <param name="problems">Gets what is wrong.</param>
    /// <param name="outer">Those of the folders around: a name that the file does not have is taken from there.</param>
    /// <param name="attachment">The text of a file that lies beside it; null for none.</param>
    public static CalendarsFile Read(
        string text,
        ProblemList problems,
        CalendarsFile? outer = null,
        Func<string, string?>? attachment = null
    )
    {
        var file = new CalendarsFile();
        foreach (var (name, calendar) in outer?._calendars ?? [])
            file._calendars[name] = calendar;
        if (MapReader.Of(NodeReader.Read(text, problems), problems, "a file of calendars") is { } map)
            new Reading(map, file._calendars, problems, attachment ?? (_ => null)).All();
        return file;
    }

    /// <summary>The files that calendars name, whatever else is right or wrong in the text.</summary>
    public static IEnumerable<string> AttachmentsIn(string text) =>
        (NodeReader.Read(text, new("", text)) as MappingNode)
            ?.Entries.Select(e => (FileParts.Child(e.Value, "file") as ScalarNode)?.Text)
            .OfType<string>()
            .ToList()
        ?? [];

    /// <summary>Reads one file. A calendar may name others, in whatever order they stand.</summary>
    sealed class Reading(
        MapReader map,
        Dictionary<string, Calendar> calendars,
        ProblemList problems,
        Func<string, string?> attachment
    )
    {
        readonly Dictionary<string, Calendar?> _read = [];
        readonly HashSet<string> _under = [];

        public void All()
        {
            foreach (var (name, _) in WorkspaceYaml.EntriesOf(map.Map, problems))
            {
                Chains.Reading.Names.Identifier(name, problems, "a calendar");
                if (Of(name.Text) is { } calendar)
                    calendars[name.Text] = calendar;
            }
        }

        // One that is being read already names itself in the end.
        Calendar? Find(ScalarNode name)
        {
            if (_under.Contains(name.Text))
            {
                problems.Add(ProblemKinds.Cycle, name.Span, $"“{name.Text}” is made of itself");
                return null;
            }
            var found = Of(name.Text) ?? calendars.GetValueOrDefault(name.Text);
            if (found is null && !_read.ContainsKey(name.Text))
            {
                problems.Add(
                    ProblemKinds.UnknownCalendar,
                    name.Span,
                    $"there is no calendar “{name.Text}”",
                    Nearest.Fix(name.Text, calendars.Keys.Concat(map.Map.Entries.Select(e => e.Key.Text)))
                );
            }
            return found;
        }

        Calendar? Of(string name)
        {
            if (_read.TryGetValue(name, out var known))
                return known;
            if (map.Map.Entries.FirstOrDefault(e => e.Key.Text == name) is not { Key: not null } entry)
                return null;
            _under.Add(name);
            var read = MapReader.Of(entry.Value, problems, $"calendar “{name}”") is { } inner
                ? Read(entry.Key, inner)
                : null;
            _under.Remove(name);
            return _read[name] = read;
        }

        Calendar Read(ScalarNode name, MapReader entry)
        {
            var told = problems.Ordered.Count;
            var dates = Texts(entry, "dates", Date, "a date such as 2026-12-25").ToHashSet();
            var yearly = Texts(entry, "yearly", YearlyDay.Parse, "a month and a day such as 12-25").ToHashSet();
            var weekly = Texts(entry, "weekly", WeekDays.Named, "a day of the week: mon to sun").ToHashSet();
            var file = FileDays(entry);
            var with = Named(entry, "with");
            var without = Named(entry, "without");
            var allBut = entry.Take("allBut") is null ? null : Named(entry, "allBut");
            entry.End();
            var calendar = new Calendar(name.Text, day =>
                (
                    dates.Contains(day)
                    || yearly.Contains(YearlyDay.Of(day))
                    || weekly.Contains(day.DayOfWeek)
                    || file.Contains(day)
                    || with.Exists(c => c.Has(day))
                    || (allBut is not null && !allBut.Exists(c => c.Has(day)))
                ) && !without.Exists(c => c.Has(day))
            );
            if (told == problems.Ordered.Count && calendar.IsEmptyFrom(dates.Count > 0 ? dates.Min() : new(2024, 1, 1)))
            {
                problems.Add(
                    ProblemKinds.EmptyCalendar,
                    name.Span,
                    $"the calendar “{name.Text}” has no days",
                    "dates, yearly, weekly, file, with or allBut say which"
                );
            }
            return calendar;
        }

        IReadOnlySet<DateOnly> FileDays(MapReader entry)
        {
            if (entry.Scalar("file") is not { } file)
                return new HashSet<DateOnly>();
            if (attachment(file.Text) is not { } text)
            {
                problems.Add(ProblemKinds.MissingAttachment, file.Span, $"there is no file “{file.Text}”");
                return new HashSet<DateOnly>();
            }
            var (days, problem) = CalendarFile.Read(text);
            if (problem is not null)
                problems.Add(ProblemKinds.WrongValue, file.Span, $"“{file.Text}”: {problem}");
            return days ?? new HashSet<DateOnly>();
        }

        List<Calendar> Named(MapReader entry, string key) => [.. entry.OneOrMore(key).Select(Find).OfType<Calendar>()];

        IEnumerable<T> Texts<T>(MapReader entry, string key, Func<string, T?> parse, string what)
            where T : struct
        {
            foreach (var scalar in entry.OneOrMore(key))
            {
                if (parse(scalar.Text) is { } value)
                    yield return value;
                else
                    problems.Add(ProblemKinds.WrongValue, scalar.Span, $"“{scalar.Text}” is not {what}");
            }
        }

        static DateOnly? Date(string text) =>
            DateOnly.TryParseExact(text, "yyyy-MM-dd", CultureInfo.InvariantCulture, DateTimeStyles.None, out var date)
                ? date
                : null;
    }
}
