using System.Text.Encodings.Web;
using System.Text.Json;
using NodaTime;
using NodaTime.Text;
using Valtro.Core;
using Valtro.Core.Sources;
using Valtro.Core.Time;

namespace Valtro.Cli;

/// <summary>Reads a calendar file and writes what was understood: a line an event, with its dates within some days.</summary>
internal static class ReadCommand
{
    private static readonly LocalDate UsualFrom = new(2026, 8, 1);
    private static readonly LocalDate UsualTo = new(2027, 8, 1);
    private static readonly OffsetDateTimePattern Moment = OffsetDateTimePattern.CreateWithInvariantCulture("uuuu-MM-dd'T'HH:mm:sso<+HH:mm>");
    private static readonly LocalDateTimePattern Local = LocalDateTimePattern.CreateWithInvariantCulture("uuuu-MM-dd'T'HH:mm:ss");
    private static readonly JsonSerializerOptions Plain = new(JsonSerializerDefaults.Web) { Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    /// <returns>The exit code: 1 for a file that cannot be read.</returns>
    public static int Run(Stream input, TextWriter output, string? zone, string? from, string? to)
    {
        try
        {
            var (first, after) = (DayOf(from, UsualFrom), DayOf(to, UsualTo));
            using var bytes = new MemoryStream();
            // One byte more than is allowed tells that there is more.
            var buffer = new byte[81_920];
            for (int read; bytes.Length <= CalendarReader.MaxBytes && (read = input.Read(buffer)) > 0;)
                bytes.Write(buffer, 0, read);
            var calendar = CalendarReader.Read(bytes.GetBuffer().AsSpan(0, (int)bytes.Length), zone is null ? DateTimeZone.Utc : Zones.Get(zone));
            foreach (var e in calendar.Events)
                Write(output, Line(e, first, after));
            Write(output, new { calendar.Name, Events = calendar.Events.Count, Left = calendar.Left });
            output.Flush();
            return 0;
        }
        catch (InvalidInputException e)
        {
            Write(output, new { Error = new { e.Code, e.Message } });
            output.Flush();
            return 1;
        }
    }

    private static object Line(ReadEvent e, LocalDate from, LocalDate to)
    {
        var (dates, notes) = (new List<(EventTiming Timing, bool IsCalledOff)>(), e.Notes.AsEnumerable());
        try
        {
            dates.AddRange(e.Dates(from, to));
        }
        catch (InvalidInputException problem)
        {
            notes = notes.Append(new ReadNote(problem.Code, problem.Message));
        }
        return new
        {
            e.Uid,
            e.Title,
            AllDay = e.Timing.Kind == TimeKind.AllDay,
            Zone = e.Timing.Zone?.Id,
            Starts = dates.Select(d => At(d.Timing, d.Timing.Start)),
            Ends = dates.Select(d => At(d.Timing, d.Timing.End)),
            CalledOff = dates.Where(d => d.IsCalledOff).Select(d => At(d.Timing, d.Timing.Start)),
            Due = e.IsDue ? At(e.Timing, e.Timing.Start) : null,
            Notes = notes,
        };
    }

    private static string At(EventTiming timing, LocalDateTime local) => timing.Kind switch
    {
        TimeKind.AllDay => LocalDatePattern.Iso.Format(local.Date),
        TimeKind.Floating => Local.Format(local),
        _ when local == timing.End => Moment.Format((Zones.ToInstant(timing.Start, timing.Zone!) + timing.Length).InZone(timing.Zone!).ToOffsetDateTime()),
        _ => Moment.Format(Zones.ToInstant(local, timing.Zone!).InZone(timing.Zone!).ToOffsetDateTime()),
    };

    private static LocalDate DayOf(string? text, LocalDate usual) =>
        text is null ? usual : LocalDatePattern.Iso.Parse(text) is { Success: true, Value: var day } ? day : throw new InvalidInputException("date_malformed", "", $"“{text}” is no date like 2026-08-01.");

    private static void Write(TextWriter output, object line) => output.WriteLine(JsonSerializer.Serialize(line, Plain));
}
