using System.Globalization;
using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Serialization;
using NodaTime;
using NodaTime.Text;
using Valtro.Core;
using Valtro.Core.LineEntry;
using Valtro.Core.Time;

namespace Valtro.Cli;

/// <summary>Reads typed lines and writes how each was understood, as JSON Lines.</summary>
internal static class LineCommand
{
    private static readonly JsonSerializerOptions Plain = new(JsonSerializerDefaults.Web)
    {
        Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
    };

    public static void Run(TextReader input, TextWriter output, Options options)
    {
        var day = Day(options.Get("day"), new LocalDate(2026, 11, 30));
        var context = new LineContext(day, Zones.Get(options.Get("zone") ?? "America/Halifax"), options.Get("language") ?? "en")
        {
            Today = Day(options.Get("today"), day),
            Terms = options.Get("term")?.Split('/') is [var first, var last] ? [(Day(first, day), Day(last, day))] : [],
            MonthFirst = options.Get("order") == "month-first",
        };
        while (input.ReadLine() is { } line)
        {
            var read = LineReader.Read(line, context);
            output.WriteLine(JsonSerializer.Serialize(
                new
                {
                    Line = line,
                    read.Draft.Title,
                    Place = read.Draft.Place is { Length: > 0 } place ? place : null,
                    Events = read.More.Prepend(read.Draft).Select(e => new { When = When(e.Timing), Rule = e.Rule?.ToString(), Follows = e.Follows is { } f ? $"{f.Days} {string.Join(',', f.CycleDays)}".Trim() : null }),
                    Tags = read.Draft.Facts is { Tags.Length: > 0 } facts ? facts.Tags : (IReadOnlyList<string>?)null,
                    Doubts = read.Doubts.IsEmpty ? null : read.Doubts.Select(d => new { Kind = d.Kind.ToString(), Text = line.Substring(d.Start, d.Length), Or = d.Rivals.Select(r => r.Text ?? "title") }),
                    Problem = read.Problem is { } problem ? new { problem.Code, problem.Message } : null,
                },
                Plain));
        }
        output.Flush();
    }

    private static string When(EventTiming timing) => timing.Kind == TimeKind.AllDay
        ? timing.Start.Date == timing.End.Date.PlusDays(-1) ? Date(timing.Start.Date) : $"{Date(timing.Start.Date)}/{Date(timing.End.Date.PlusDays(-1))}"
        : $"{Moment(timing.Start)}/{Moment(timing.End)}";

    private static string Date(LocalDate date) => LocalDatePattern.Iso.Format(date);

    private static string Moment(LocalDateTime moment) => moment.ToString("uuuu-MM-dd HH:mm", CultureInfo.InvariantCulture);

    private static LocalDate Day(string? text, LocalDate usual) =>
        text is null ? usual : LocalDatePattern.Iso.Parse(text) is { Success: true, Value: var day } ? day : throw new InvalidInputException("date_malformed", "", $"“{text}” is no date like 2026-08-01.");
}
