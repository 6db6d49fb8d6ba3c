using System.Text;
using System.Text.RegularExpressions;
using Valtro.Core.Events;
using Valtro.Core.ICalendar;
using Valtro.Core.Publishing;
using Valtro.Core.Tests.Recurrence;
using Valtro.Core.Time;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.ICalendar;

/// <summary>Every rule a feed's lines have to keep, over schools made by chance.</summary>
public partial class FeedRulesTests
{
    private static readonly string[] ZoneNames = ["America/Halifax", "Europe/Paris", "Australia/Lord_Howe", "Asia/Kathmandu", "UTC", "America/St_Johns"];
    private static readonly string[] Words = ["rope", "Nœud;", "a,b", "\\back", "line\nbreak", "\r\nboth", "🚣‍♀️", "日本語の綱", "x:y", "\"quoted\"", "^caret", "\u0007bell", "é", new string('m', 90), "تجديف"];
    private static readonly HashSet<string> Texts = ["SUMMARY", "LOCATION", "DESCRIPTION", "NAME", "TZNAME", "UID", "RELATED-TO"];

    private sealed record Line(string Name, Dictionary<string, string> Parameters, string Value);

    private static (Projection Projection, List<Event> Events) School(int seed)
    {
        var (random, rules) = (new Random(seed), new RuleMaker(seed));
        string Text(int most) => string.Join(' ', Enumerable.Range(0, random.Next(1, most)).Select(_ => Words[random.Next(Words.Length)]));
        var calendars = Enumerable.Range(0, 3).Select(i => Calendar(title: "C " + Text(2).Replace('\n', ' ').Replace('\r', ' '))).ToList();
        var events = new List<Event>();
        for (var i = 0; i < 14; i++)
        {
            var start = rules.Start();
            var timing = random.Next(4) switch
            {
                0 => EventTiming.AllDay(start.Date, start.Date.PlusDays(random.Next(4))),
                1 => EventTiming.Floating(start, start.PlusMinutes(random.Next(0, 300))),
                _ => EventTiming.Zoned(start, start.PlusMinutes(random.Next(0, 300)), Zones.Get(ZoneNames[random.Next(ZoneNames.Length)])),
            };
            try
            {
                var text = random.Next(2) == 0 ? null : rules.Rule(withShort: false) + (random.Next(3) == 0 ? ";UNTIL=20230301T120000Z" : "");
                if (text?.Contains("COUNT", StringComparison.Ordinal) == true)
                    text = text.Replace(";UNTIL=20230301T120000Z", "");
                if (timing.Kind == TimeKind.AllDay)
                    text = text?.Replace("20230301T120000Z", "20230301");
                if (timing.Kind == TimeKind.Floating)
                    text = text?.Replace("20230301T120000Z", "20230301T120000");
                var e = Core.Events.Event.Create(
                    Guid.NewGuid(), calendars[random.Next(3)].Id,
                    new EventDraft(Text(5), random.Next(2) == 0 ? "" : Text(3), Text(12), timing, text is null ? null : Core.Recurrence.RecurrenceRule.Parse(text, timing.Zone ?? Halifax)), Now);
                var dates = e.Dates.FirstStarts(6).ToList();
                if (e.Rule is not null && dates.Count > 4)
                {
                    e = e.Skip(dates[1], Now).CallOff(dates[2], random.Next(2) == 0, Now);
                    e = e with { Changes = [.. e.Changes.Where(c => c.Date != dates[3]).Append(new EventChange { Date = dates[3], Title = Text(2), Timing = random.Next(2) == 0 ? timing.At(dates[3].PlusDays(timing.Kind == TimeKind.AllDay ? 1 : 0)) : null, At = Now }).Where(c => !c.IsEmpty).OrderBy(c => c.Date)] };
                    if (random.Next(2) == 0)
                        e = e.AddDate(dates[0].PlusDays(1) == dates[1] ? dates[0].PlusDays(4000) : dates[0].PlusDays(1), Now);
                }
                if (random.Next(5) == 0)
                    e = e.Delete(Now - Duration.FromDays(random.Next(40)));
                events.Add(e with
                {
                    Facts = new EventFacts
                    {
                        Subtitle = random.Next(3) == 0 ? "Of ropes" : "",
                        Tags = random.Next(2) == 0 ? ["a,b", "ünï"] : [],
                        Reminder = random.Next(3) == 0 ? random.Next(0, 90) : null,
                        Links = random.Next(3) == 0 ? [new EventLink(LinkKind.Video, "https://a.example/v?x=1,2;3", "Join: \"us\"")] : [],
                        Files = random.Next(3) == 0 ? [new EventFile(Guid.NewGuid(), Guid.NewGuid(), "plan; \"b\", é.pdf", "application/pdf", 7)] : [],
                    },
                });
            }
            catch (InvalidInputException)
            {
                // A rule that gives no date makes no event.
            }
        }
        var settings = new PublicationSettings { Title = "All", CalendarIds = [.. calendars.Select(c => c.Id)], Choices = new PublicationChoices { TitlePattern = random.Next(2) == 0 ? "{title}" : "[{calendar}] {title}" } };
        return (Projection.Of(Core.Publishing.Publication.New(Guid.NewGuid(), "all", settings, Now), Halifax, calendars, events, Now), events);
    }

    private static Line Parse(string line)
    {
        var head = Head().Match(line);
        Assert.True(head.Success, line);
        return new Line(
            head.Groups[1].Value,
            Parameter().Matches(head.Groups[2].Value).ToDictionary(m => m.Groups[1].Value, m => m.Groups[2].Success ? m.Groups[2].Value : m.Groups[3].Value),
            line[head.Length..]);
    }

    [Fact]
    public void Every_line_and_every_component_keeps_the_rules_of_the_standard()
    {
        var (series, changes, zones, removed) = (0, 0, 0, 0);
        for (var seed = 1; seed <= 60; seed++)
        {
            var (projection, events) = School(seed);
            var bytes = FeedWriter.Write(Ics.Head, projection);
            Assert.Equal(bytes, FeedWriter.Write(Ics.Head, projection));
            var lines = Unfolded(bytes).Select(Parse).ToList();

            // Components open and close within each other, and nothing is said outside of them (3.6).
            var open = new Stack<(string Name, List<Line> Lines)>();
            var components = new List<(string Name, List<Line> Lines)>();
            foreach (var line in lines)
            {
                if (line.Name == "BEGIN")
                {
                    open.Push((line.Value, []));
                }
                else if (line.Name == "END")
                {
                    var done = open.Pop();
                    Assert.Equal(line.Value, done.Name);
                    components.Add(done);
                }
                else
                {
                    open.Peek().Lines.Add(line);
                }
                if (Texts.Contains(line.Name))
                    Assert.Matches(EscapedText(), line.Value);
                Assert.DoesNotContain(line.Value, c => char.IsControl(c));
            }
            Assert.Empty(open);
            var vevents = components.Where(c => c.Name == "VEVENT").Select(c => c.Lines).ToList();

            // Each has who it is and when that was written, once; no two are the same (3.6.1, 3.8.4.7).
            Assert.All(vevents, e => Assert.All(new[] { "UID", "DTSTAMP", "DTSTART", "SUMMARY", "SEQUENCE" }, name => Assert.Single(e, l => l.Name == name)));
            Assert.Equal(vevents.Count, vevents.Select(e => (Value(e, "UID"), Value(e, "RECURRENCE-ID"))).Distinct().Count());
            Assert.All(lines.Where(l => l.Name is "DTSTAMP" or "CREATED" or "LAST-MODIFIED"), l => Assert.Matches("^[0-9]{8}T[0-9]{6}Z$", l.Value));

            // Every zone that is named is described, from before the first time in it (3.6.5).
            var described = components.Where(c => c.Name == "VTIMEZONE").ToDictionary(c => Value(c.Lines, "TZID")!, _ => true);
            foreach (var (zone, time) in lines.Where(l => l.Parameters.ContainsKey("TZID")).Select(l => (l.Parameters["TZID"], l.Value.Split(',').Min(StringComparer.Ordinal)!)))
            {
                zones++;
                Assert.Contains(zone, described.Keys);
                Assert.NotEqual("UTC", zone);
                var from = lines.SkipWhile(l => !(l.Name == "TZID" && l.Value == zone)).TakeWhile(l => l.Name != "END" || l.Value != "VTIMEZONE").Where(l => l.Name == "DTSTART").Min(l => l.Value)!;
                Assert.True(string.CompareOrdinal(from, time) <= 0, $"{zone} is described from {from}, and {time} lies in it");
            }

            foreach (var e in vevents)
            {
                var start = e.Single(l => l.Name == "DTSTART");
                string Form(Line l) => l.Parameters.GetValueOrDefault("TZID", "") + (l.Parameters.GetValueOrDefault("VALUE") == "DATE" ? "date" : l.Value.EndsWith('Z') ? "utc" : "local");
                // What says when has the form of the start (3.8.2.2, 3.8.4.4, 3.8.5.1, 3.8.5.2).
                foreach (var other in e.Where(l => l.Name is "DTEND" or "EXDATE" or "RDATE" or "RECURRENCE-ID"))
                    Assert.Equal(Form(start), Form(other));
                if (e.FirstOrDefault(l => l.Name == "DTEND") is { } end && Form(end) is "date" or "local")
                    Assert.True(string.CompareOrdinal(end.Value, start.Value) > 0, $"{start.Value} to {end.Value}");
                Assert.Equal(Form(start) == "date", !start.Value.Contains('T'));
                Assert.All(e.Where(l => l.Name is "EXDATE" or "RDATE"), l => Assert.Equal(l.Value.Split(',').Order(StringComparer.Ordinal), l.Value.Split(',')));
                if (e.SingleOrDefault(l => l.Name == "RRULE") is { } rule)
                {
                    series++;
                    Assert.DoesNotContain(e, l => l.Name == "RECURRENCE-ID");
                    var parts = rule.Value.Split(';').ToDictionary(p => p.Split('=')[0], p => p.Split('=')[1]);
                    Assert.False(parts.ContainsKey("COUNT") && parts.ContainsKey("UNTIL"));
                    // An end is in UTC with a zoned start, else of the start's own form (3.3.10).
                    if (parts.TryGetValue("UNTIL", out var until))
                        Assert.Matches(Form(start) == "date" ? "^[0-9]{8}$" : Form(start) == "local" ? "^[0-9]{8}T[0-9]{6}$" : "^[0-9]{8}T[0-9]{6}Z$", until);
                }
                if (e.Any(l => l.Name == "RECURRENCE-ID"))
                {
                    changes++;
                    Assert.Contains(vevents, other => Value(other, "UID") == Value(e, "UID") && other.All(l => l.Name != "RECURRENCE-ID"));
                }
            }

            // What was removed goes out in no form.
            foreach (var gone in events.Where(e => e.DeletedAt is not null))
            {
                Assert.DoesNotContain(vevents, e => Value(e, "UID") == gone.Uid);
                removed++;
            }
            Assert.All(components.Where(c => c.Name == "VALARM"), a => Assert.Matches("^(-PT[0-9]+M|PT0S)$", Value(a.Lines, "TRIGGER")));
        }
        // It was not all the easy kind.
        Assert.True(series > 150 && changes > 50 && zones > 250 && removed > 25, $"{series} {changes} {zones} {removed}");
    }

    private static string? Value(List<Line> lines, string name) => lines.FirstOrDefault(l => l.Name == name)?.Value;

    // CRLF after each line, 75 octets at most, and no character cut in two (3.1).
    private static string[] Unfolded(byte[] bytes)
    {
        var strict = new UTF8Encoding(false, throwOnInvalidBytes: true);
        var text = strict.GetString(bytes);
        Assert.EndsWith("\r\n", text);
        Assert.DoesNotContain('\n', text.Replace("\r\n", ""));
        Assert.DoesNotContain('\r', text.Replace("\r\n", ""));
        var from = 0;
        while (from < bytes.Length)
        {
            var end = bytes.AsSpan(from).IndexOf("\r\n"u8);
            Assert.InRange(end, 1, 75);
            strict.GetString(bytes, from, end);
            from += end + 2;
        }
        return text.Replace("\r\n ", "").Split("\r\n", StringSplitOptions.RemoveEmptyEntries);
    }

    [GeneratedRegex("""^([A-Z0-9-]+)((?:;[A-Z0-9-]+=(?:"[^"]*"|[^";:,]*))*):""")]
    private static partial Regex Head();

    [GeneratedRegex("""([A-Z0-9-]+)=(?:"([^"]*)"|([^";:,]*))""")]
    private static partial Regex Parameter();

    [GeneratedRegex(@"^(?:[^\\;,]|\\[\\;,n])*$")]
    private static partial Regex EscapedText();
}
