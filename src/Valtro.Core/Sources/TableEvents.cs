using System.Collections.Immutable;
using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using System.Text.RegularExpressions;
using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.LineEntry;
using Valtro.Core.Time;

namespace Valtro.Core.Sources;

/// <summary>What a column of a table says of events.</summary>
public enum TableColumn
{
    /// <summary>Nothing.</summary>
    Nothing,

    /// <summary>The title.</summary>
    Title,

    /// <summary>The first day, perhaps with a time, perhaps a span of days.</summary>
    Date,

    /// <summary>The last day.</summary>
    LastDate,

    /// <summary>When it begins; perhaps from and to.</summary>
    Start,

    /// <summary>When it ends.</summary>
    End,

    /// <summary>Where.</summary>
    Place,

    /// <summary>Its category.</summary>
    Category,

    /// <summary>The calendar it belongs to.</summary>
    Calendar,

    /// <summary>More about it.</summary>
    Description,

    /// <summary>How it repeats, as it would be typed: <c>every tue until 12 dec</c>.</summary>
    Repeats,

    /// <summary>A web address.</summary>
    Link,

    /// <summary>What it is known by.</summary>
    Id,
}

/// <summary>What a table is read by.</summary>
/// <param name="Zone">The zone of its times.</param>
/// <param name="Today">Today: without a year the nearest date is meant.</param>
public sealed record TableContext(DateTimeZone Zone, LocalDate Today)
{
    /// <summary>Whether 5/12 is the twelfth of May, where the table itself does not tell.</summary>
    public bool MonthFirst { get; init; }

    /// <summary>Days in the school's rotation, for repeats.</summary>
    public int CycleLength { get; init; }
}

/// <summary>Reads tables as events: columns by their headers and by what is in them, rows one by one.</summary>
public static partial class TableEvents
{
    /// <summary>The property that holds what the calendar's column says.</summary>
    public const string CalendarProperty = "X-CALENDAR";

    // Of the cells of a column, from which share on it is taken for one of dates or times.
    private const double Most = 0.6;

    private static readonly (TableColumn Column, string[] Words)[] Headers =
    [
        (TableColumn.Title, ["title", "subject", "summary", "event", "name", "what", "titre", "objet", "événement", "evenement", "intitulé", "nom", "quoi", "activity", "activité"]),
        (TableColumn.LastDate, ["end date", "last day", "last date", "until", "to date", "date de fin", "dernier jour", "jusqu'au", "au", "date end", "fin date"]),
        (TableColumn.Date, ["date", "day", "start date", "first day", "from date", "when", "jour", "date de début", "premier jour", "quand", "du", "date start", "due date", "due", "échéance"]),
        (TableColumn.End, ["end", "end time", "to", "finish", "fin", "heure de fin", "à", "time end", "ends"]),
        (TableColumn.Start, ["start", "start time", "time", "from", "begin", "begins", "hour", "début", "heure", "heure de début", "de", "time start", "starts", "horaire"]),
        (TableColumn.Place, ["place", "location", "room", "where", "venue", "lieu", "salle", "endroit", "où"]),
        (TableColumn.Category, ["category", "categories", "type", "kind", "catégorie", "genre", "catégories"]),
        (TableColumn.Calendar, ["calendar", "class", "course", "group", "calendrier", "classe", "cours", "groupe"]),
        (TableColumn.Description, ["description", "notes", "note", "details", "comment", "comments", "remark", "remarks", "détails", "remarque", "commentaire", "more", "information"]),
        (TableColumn.Repeats, ["repeats", "repeat", "recurrence", "every", "répétition", "récurrence", "se répète"]),
        (TableColumn.Link, ["link", "url", "website", "web", "address", "lien", "site", "adresse"]),
        (TableColumn.Id, ["id", "uid", "identifier", "identifiant", "number", "no", "nr", "n°"]),
    ];

    /// <summary>Whether the first row names the columns.</summary>
    public static bool HasHeader(Table table, TableContext context)
    {
        if (table.Rows[0].Any(c => IsDate(c, context)))
            return false;
        // Names nobody knows stand above dates all the same.
        return table.Rows[0].Any(c => ByHeader(c) != TableColumn.Nothing)
            || (table.Rows.Skip(1).Take(20).ToList() is { Count: > 0 } below && Enumerable.Range(0, table.Rows[0].Count).Any(i => below.Count(r => IsDate(r[i], context)) >= Most * below.Count));
    }

    /// <summary>What each column seems to say.</summary>
    public static ImmutableArray<TableColumn> Guess(Table table, TableContext context)
    {
        var hasHeader = HasHeader(table, context);
        var rows = table.Rows.Skip(hasHeader ? 1 : 0).Take(100).ToList();
        var columns = Enumerable.Range(0, table.Rows[0].Count).Select(i => hasHeader ? ByHeader(table.Rows[0][i]) : TableColumn.Nothing).ToArray();
        // One column a meaning: of two that are named alike the first.
        for (var i = 0; i < columns.Length; i++)
        {
            if (columns[i] != TableColumn.Nothing && Array.IndexOf(columns, columns[i]) < i)
                columns[i] = TableColumn.Nothing;
        }
        double Share(int column, Func<string, bool> fits) => rows.Select(r => r[column]).Where(c => c.Length > 0).ToList() is { Count: > 0 } cells ? cells.Count(fits) / (double)cells.Count : 0;
        void Take(TableColumn meaning, Func<int, bool> fits)
        {
            if (Array.IndexOf(columns, meaning) < 0 && Enumerable.Range(0, columns.Length).Where(i => columns[i] == TableColumn.Nothing && fits(i)).Select(i => (int?)i).FirstOrDefault() is { } found)
                columns[found] = meaning;
        }
        // "From" and "To" can be days as well as times.
        Swap(columns, TableColumn.Start, TableColumn.Date, i => Share(i, c => IsDate(c, context)) >= Most);
        Swap(columns, TableColumn.End, TableColumn.LastDate, i => Share(i, c => IsDate(c, context)) >= Most);
        Take(TableColumn.Date, i => Share(i, c => IsDate(c, context)) >= Most);
        if (!hasHeader)
            Take(TableColumn.LastDate, i => Share(i, c => IsDate(c, context)) >= Most);
        Take(TableColumn.Start, i => Share(i, IsTime) >= Most);
        if (!hasHeader)
            Take(TableColumn.End, i => Share(i, IsTime) >= Most);
        if (Array.IndexOf(columns, TableColumn.Title) < 0)
        {
            // The title is what differs most among what is neither date, time nor number.
            var best = Enumerable.Range(0, columns.Length).Where(i => columns[i] == TableColumn.Nothing && Share(i, c => c.Any(char.IsLetter)) > 0.5)
                .OrderByDescending(i => rows.Select(r => r[i]).Distinct().Count()).ThenBy(i => i).Select(i => (int?)i).FirstOrDefault();
            if (best is { } title)
                columns[title] = TableColumn.Title;
        }
        return [.. columns];
    }

    /// <summary>Reads the rows of a table.</summary>
    /// <param name="table">The table.</param>
    /// <param name="columns">What its columns say.</param>
    /// <param name="context">What it is read by.</param>
    /// <param name="hasHeader">Whether the first row names the columns.</param>
    public static ReadCalendar Read(Table table, IReadOnlyList<TableColumn> columns, TableContext context, bool hasHeader)
    {
        var rows = table.Rows.Skip(hasHeader ? 1 : 0).ToList();
        var order = OrderOf(rows, columns, context);
        var (events, left) = (new List<ReadEvent>(), new SortedDictionary<string, int>(StringComparer.Ordinal));
        foreach (var row in rows)
        {
            if (Row(row, columns, order.Context, order.IsMixed) is { } e)
                events.Add(e);
            else
                left["row without a readable date"] = left.GetValueOrDefault("row without a readable date") + 1;
        }
        return new ReadCalendar("", events, [.. left.Select(l => new LeftOut(l.Key, l.Value))]);
    }

    private static ReadEvent? Row(IReadOnlyList<string> row, IReadOnlyList<TableColumn> columns, TableContext context, bool isMixed)
    {
        string Cell(TableColumn meaning) => Enumerable.Range(0, Math.Min(columns.Count, row.Count)).Where(i => columns[i] == meaning && row[i].Length > 0).Select(i => row[i]).FirstOrDefault("");
        var days = new DayContext(context.Today, context.Today) { MonthFirst = context.MonthFirst };
        var notes = new List<ReadNote>();
        void Note(string code, string message) => notes.Add(new ReadNote(code, message));
        if (Day(Cell(TableColumn.Date), days) is not var (first, last, timeOfDate))
            return null;
        if (isMixed && Ambiguous().IsMatch(Cell(TableColumn.Date)))
            Note("date_ambiguous", $"The table writes days and months in both orders; “{Cell(TableColumn.Date)}” was read as {first.ToString("d MMMM uuuu", CultureInfo.InvariantCulture)}.");
        LocalTime? endOfDate = null;
        if (Cell(TableColumn.LastDate) is { Length: > 0 } until)
        {
            if (Day(until, days) is var (to, _, time))
                (last, endOfDate) = (to, time);
            else
                Note("end_unreadable", "Its end cannot be read.");
        }
        var (start, end) = (timeOfDate, endOfDate);
        if (Cell(TableColumn.Start) is { Length: > 0 } said)
        {
            if (Clocks(said, days) is var (from, to))
                (start, end) = (from, to ?? end);
            else if (!AllDay().IsMatch(said))
                Note("time_unreadable", $"Its time “{said}” cannot be read; it is kept as a whole day.");
        }
        if (Cell(TableColumn.End) is { Length: > 0 } ending)
        {
            if (Day(ending, days) is var (to, _, time) && time is not null && ending.Contains(' ', StringComparison.Ordinal))
                (last, end) = (to, time);
            else if (Clocks(ending, days) is var (at, _))
                end = at;
            else
                Note("end_unreadable", "Its end cannot be read.");
        }
        if (last < first)
        {
            Note("end_before_start", "Its end is before its start; it is kept without length.");
            last = first;
        }
        EventTiming timing;
        try
        {
            if (start is not { } begins)
            {
                timing = EventTiming.AllDay(first, last);
            }
            else
            {
                var (from, to) = (first + begins, last + (end ?? begins));
                if (to < from)
                {
                    Note("end_before_start", "Its end is before its start; it is kept without length.");
                    to = from;
                }
                timing = EventTiming.Zoned(from, to, context.Zone);
            }
        }
        catch (InvalidInputException)
        {
            return null;
        }
        var title = Cell(TableColumn.Title).ReplaceLineEndings(" ");
        if (title.Length == 0)
            Note("title_missing", "It has no title.");
        var read = new ReadEvent
        {
            Uid = Cell(TableColumn.Id) is { Length: > 0 } id ? $"row {id}" : "row " + Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes($"{Place.NameKey(title)}\n{timing.Start}\n{Cell(TableColumn.Calendar)}\n{Cell(TableColumn.Place)}")).AsSpan(0, 12)),
            Title = title,
            Place = Cell(TableColumn.Place).ReplaceLineEndings(" "),
            Description = Cell(TableColumn.Description),
            Timing = timing,
            Categories = [.. Cell(TableColumn.Category).Split([',', ';'], StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries)],
            Others = Cell(TableColumn.Calendar) is { Length: > 0 } calendar ? [KeyValuePair.Create(CalendarProperty, calendar)] : [],
            Links = Cell(TableColumn.Link) is { Length: > 0 } link ? [new EventLink(LinkKind.More, "", link)] : [],
        };
        if (Cell(TableColumn.Repeats) is { Length: > 0 } repeats)
            read = Repeating(read, repeats, context, Note);
        return read with { Notes = [.. notes] };
    }

    private static ReadEvent Repeating(ReadEvent read, string repeats, TableContext context, Action<string, string> note)
    {
        try
        {
            var line = LineReader.Read("x " + repeats[..Math.Min(repeats.Length, LineReader.MaxLength - 2)], new LineContext(read.Timing.Start.Date, context.Zone, "en", context.CycleLength) { Today = context.Today, MonthFirst = context.MonthFirst });
            if (line.Draft is { Rule: { } rule, Follows: null })
                return read with { Rule = rule };
        }
        catch (InvalidInputException)
        {
            // As one that says nothing readable.
        }
        if (!Never().IsMatch(repeats))
            note("repeat_unreadable", $"How it repeats, “{repeats}”, cannot be read; it stands there once.");
        return read;
    }

    private static (LocalDate First, LocalDate Last, LocalTime? Time)? Day(string text, DayContext days)
    {
        if (text.Length is 0 or > DayReader.MaxLength)
            return null;
        if (DayReader.Read(text, days) is { } day)
            return (day, day, null);
        // A day and a time.
        if (WithTime().Match(text) is { Success: true } m && DayReader.Read(m.Groups[1].Value.Trim().TrimEnd(','), days) is { } dated && Clocks(m.Groups[2].Value, days) is var (time, _))
            return (dated, dated, time);
        return DayReader.ReadSpan(text, days) is { Name: "" } span ? (span.First, span.Last, null) : null;
    }

    private static (LocalTime From, LocalTime? To)? Clocks(string text, DayContext days)
    {
        if (DayReader.ReadClock(text) is { } one)
            return (one, null);
        var parts = Range().Split(text.Trim());
        return parts.Length == 2 && DayReader.ReadClock(parts[0]) is { } from && DayReader.ReadClock(parts[1]) is { } to
            // "9-11 pm" says it once for both.
            ? (from < to && parts[1].Contains('p', StringComparison.OrdinalIgnoreCase) && !parts[0].Any(char.IsLetter) && from.Hour < 12 && from.PlusHours(12) <= to ? from.PlusHours(12) : from, to)
            : null;
    }

    // With strokes days and months stand in one order or the other: what cannot be a month tells which.
    private static (TableContext Context, bool IsMixed) OrderOf(List<IReadOnlyList<string>> rows, IReadOnlyList<TableColumn> columns, TableContext context)
    {
        var (dayFirst, monthFirst) = (false, false);
        foreach (var row in rows)
        {
            for (var i = 0; i < Math.Min(columns.Count, row.Count); i++)
            {
                if (columns[i] is not (TableColumn.Date or TableColumn.LastDate) || Strokes().Match(row[i]) is not { Success: true } m)
                    continue;
                var (a, b) = (int.Parse(m.Groups[1].Value, CultureInfo.InvariantCulture), int.Parse(m.Groups[2].Value, CultureInfo.InvariantCulture));
                dayFirst |= a > 12 && b <= 12;
                monthFirst |= b > 12 && a <= 12;
            }
        }
        return (dayFirst == monthFirst ? context : context with { MonthFirst = monthFirst }, dayFirst && monthFirst);
    }

    private static TableColumn ByHeader(string header)
    {
        var plain = Header().Replace(header.ToLowerInvariant().Replace('’', '\'').Replace('_', ' '), " ").Trim();
        return Headers.Where(h => h.Words.Contains(plain)).Select(h => h.Column).FirstOrDefault();
    }

    private static void Swap(TableColumn[] columns, TableColumn from, TableColumn to, Func<int, bool> isSo)
    {
        var at = Array.IndexOf(columns, from);
        if (at >= 0 && Array.IndexOf(columns, to) < 0 && isSo(at))
            columns[at] = to;
    }

    private static bool IsDate(string text, TableContext context) => text.Any(char.IsDigit) && !int.TryParse(text, out _) && Day(text, new DayContext(context.Today, context.Today) { MonthFirst = context.MonthFirst }) is not null;

    private static bool IsTime(string text) => text.Any(char.IsDigit) && (text.Contains(':', StringComparison.Ordinal) || text.Any(char.IsLetter) || text.Contains('.', StringComparison.Ordinal)) && Clocks(text, new DayContext(default, default)) is not null;

    [GeneratedRegex(@"^(.*\d.*?)[\sT]+(?:at |à |um )?(\d{1,2}(?:[:.h]\d{2}(?::\d{2})?)?\s*(?:[ap]\.?m\.?|h)?(?:\s*[–-]\s*\d{1,2}(?:[:.h]\d{2})?\s*(?:[ap]\.?m\.?|h)?)?)$", RegexOptions.IgnoreCase)]
    private static partial Regex WithTime();

    [GeneratedRegex(@"\s*(?:–|—|-|\bto\b|\bà\b|\buntil\b)\s*", RegexOptions.IgnoreCase)]
    private static partial Regex Range();

    [GeneratedRegex(@"^(\d{1,2})/(\d{1,2})(?:/\d{2,4})?\b")]
    private static partial Regex Strokes();

    [GeneratedRegex(@"^(?:[1-9]|0[1-9]|1[0-2])/(?:[1-9]|0[1-9]|1[0-2])(?:/|$|\s)")]
    private static partial Regex Ambiguous();

    [GeneratedRegex(@"[^\p{L}\p{N}'°]+")]
    private static partial Regex Header();

    [GeneratedRegex(@"^\s*(?:all[ -]?day|whole day|journée|toute la journée|-+|–|n/?a)\s*$", RegexOptions.IgnoreCase)]
    private static partial Regex AllDay();

    [GeneratedRegex(@"^\s*(?:no|non|never|jamais|none|once|une fois|-+|0)\s*$", RegexOptions.IgnoreCase)]
    private static partial Regex Never();
}
