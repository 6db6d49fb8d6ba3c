using System.Text;
using System.Xml;
using NodaTime;
using NodaTime.Text;
using Valtro.Core.Events;
using Valtro.Core.ICalendar;
using Valtro.Core.Reach;
using Valtro.Core.Time;

namespace Valtro.Core.Publishing;

/// <summary>A dated line of what is on, for tables and readers that know no calendars.</summary>
/// <param name="Key">The date's name, see <see cref="PublishedOccurrence.Key"/>.</param>
/// <param name="Title">The title; a word of the publication's language for times that are taken.</param>
/// <param name="IsAllDay">Whether it takes whole days.</param>
/// <param name="Start">When it begins, with the offset of the publication's zone; of an all-day one the first day.</param>
/// <param name="End">When it ends, exclusive; of an all-day one the day after the last.</param>
/// <param name="Place">Where; may be empty.</param>
/// <param name="Calendars">The calendars it stands in.</param>
/// <param name="Category">Its category; may be empty.</param>
/// <param name="Description">The description without marks; may be empty.</param>
/// <param name="IsCalledOff">Whether the date is called off.</param>
/// <param name="ChangedAt">When it was last changed.</param>
public sealed record DatedLine(
    string Key, string Title, bool IsAllDay, string Start, string End, string Place, IReadOnlyList<string> Calendars, string Category, string Description, bool IsCalledOff, Instant ChangedAt);

/// <summary>What goes out in forms beside iCalendar.</summary>
public static class OtherForms
{
    /// <summary>The media type of Atom.</summary>
    public const string AtomType = "application/atom+xml; charset=utf-8";

    /// <summary>How many days ahead dates are told.</summary>
    public const int DaysAhead = 180;

    private const int MaxLines = 2_000;

    private static readonly OffsetDateTimePattern OffsetForm = OffsetDateTimePattern.CreateWithInvariantCulture("uuuu-MM-dd'T'HH:mm:sso<m>");

    /// <summary>The dates of a projection from a day on, in order.</summary>
    /// <param name="projection">What goes out.</param>
    /// <param name="from">The first day.</param>
    /// <param name="busy">What stands for the title of an event that shows its times only.</param>
    public static IReadOnlyList<DatedLine> Lines(Projection projection, LocalDate from, string busy) =>
    [
        .. projection.In(new TimeWindow(from, from.PlusDays(DaysAhead), projection.Zone)).Take(MaxLines).Select(o =>
        {
            var isAllDay = o.Event.Timing.Kind == TimeKind.AllDay;
            var (start, end) = o.InstantsIn(projection.Zone);
            string At(Instant at) => OffsetForm.Format(at.InZone(projection.Zone).ToOffsetDateTime());
            string Day(LocalDate day) => LocalDatePattern.Iso.Format(day);
            return new DatedLine(
                o.Key,
                o.Title is null ? busy : o.Title,
                isAllDay,
                isAllDay ? Day(o.Span.FirstDay) : At(start),
                isAllDay ? Day(o.Span.LastDay.PlusDays(1)) : At(end),
                o.Place ?? "",
                [.. o.Event.Detail >= Detail.Headlines ? o.Event.Calendars.Select(c => c.Title) : [o.Event.Calendar.Title]],
                o.Category ?? "",
                o.Description is { Length: > 0 } rich ? RichText.Plain(rich) : "",
                o.IsCalledOff,
                o.Change?.At is { } at ? Instant.Max(at, o.Event.ChangedAt) : o.Event.ChangedAt);
        }),
    ];

    /// <summary>The dates to come as an Atom feed (RFC 4287).</summary>
    /// <param name="head">What the feed says of itself; its feed address is this feed's own.</param>
    /// <param name="projection">What goes out.</param>
    /// <param name="lines">The dates.</param>
    /// <param name="school">Who publishes it.</param>
    /// <param name="calledOff">What is said of a date that is called off.</param>
    public static byte[] Atom(FeedHead head, Projection projection, IReadOnlyList<DatedLine> lines, string school, string calledOff)
    {
        const string Space = "http://www.w3.org/2005/Atom";
        using var output = new MemoryStream();
        using (var xml = XmlWriter.Create(output, new XmlWriterSettings { Encoding = new UTF8Encoding(false), Indent = true, CheckCharacters = false }))
        {
            void Text(string name, string text) => xml.WriteElementString(name, Space, Printable(text));
            void Link(string rel, string address, string? type = null)
            {
                xml.WriteStartElement("link", Space);
                xml.WriteAttributeString("rel", rel);
                if (type is not null)
                    xml.WriteAttributeString("type", type);
                xml.WriteAttributeString("href", address);
                xml.WriteEndElement();
            }
            xml.WriteStartElement("feed", Space);
            Text("id", $"urn:uuid:{projection.Publication.Id:D}");
            Text("title", head.Name);
            if (head.Description.Length > 0)
                Text("subtitle", head.Description);
            Text("updated", InstantPattern.General.Format(projection.ChangedAt));
            Link("self", head.FeedUrl, "application/atom+xml");
            Link("alternate", head.PageUrl, "text/html");
            xml.WriteStartElement("author", Space);
            Text("name", school);
            xml.WriteEndElement();
            foreach (var line in lines)
            {
                xml.WriteStartElement("entry", Space);
                Text("id", $"{head.PageUrl}/e/{line.Key}");
                Text("title", line.IsCalledOff ? $"{line.Title} ({calledOff})" : line.Title);
                Text("updated", InstantPattern.General.Format(line.ChangedAt));
                Link("alternate", $"{head.PageUrl}/e/{line.Key}", "text/html");
                foreach (var calendar in line.Calendars)
                {
                    xml.WriteStartElement("category", Space);
                    xml.WriteAttributeString("term", Printable(calendar));
                    xml.WriteEndElement();
                }
                Text("summary", string.Join(" · ", new[] { line.IsAllDay ? line.Start : $"{line.Start} – {line.End}", line.Place }.Where(t => t.Length > 0)));
                if (line.Description.Length > 0)
                {
                    xml.WriteStartElement("content", Space);
                    xml.WriteAttributeString("type", "text");
                    xml.WriteString(Printable(line.Description));
                    xml.WriteEndElement();
                }
                xml.WriteEndElement();
            }
            xml.WriteEndElement();
        }
        return output.ToArray();
    }

    // XML has no way to write most control characters (XML 1.0, 2.2).
    private static string Printable(string text) => string.Concat(text.Where(c => c is '\n' or '\t' || (c >= ' ' && XmlConvert.IsXmlChar(c)) || char.IsSurrogate(c)));
}
