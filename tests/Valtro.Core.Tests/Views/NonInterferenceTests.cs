using System.Text;
using System.Text.Json;
using Valtro.Core.Clashes;
using Valtro.Core.Events;
using Valtro.Core.ICalendar;
using Valtro.Core.People;
using Valtro.Core.Publishing;
using Valtro.Core.Reach;
using Valtro.Core.SchoolYears;
using Valtro.Core.Tests.ICalendar;
using Valtro.Core.Time;
using Valtro.Core.Views;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Views;

/// <summary>
/// The contract of the one way out: two schools that differ only in what a viewer may not see give that viewer the same bytes
/// in every form. What they may see is computed here by itself, as the least of all that may limit.
/// </summary>
public class NonInterferenceTests
{
    private static readonly TimeWindow Window = new(Day("2026-09-01"), Day("2026-11-01"), Halifax);
    private static readonly Instant Later = Now + Duration.FromHours(30);

    private sealed record School(IReadOnlyList<Calendar> Calendars, IReadOnlyList<Event> Events, SchoolLists Lists);

    private static ReachTable Table(Random random)
    {
        var levels = Enumerable.Range(0, 3).Select(_ => (Detail)random.Next(4)).OrderDescending().ToArray();
        return new ReachTable(levels[0], levels[1], levels[2]);
    }

    private static T Pick<T>(Random random, IReadOnlyList<T> all) => all[random.Next(all.Count)];

    private static School Make(Random random)
    {
        var calendars = Enumerable.Range(0, 4).Select(i => Calendar(Table(random), "Calendar " + i)).ToList();
        var kinds = Enumerable.Range(0, 2).Select(i => new Category(Guid.NewGuid(), "Kind " + i, null, i == 0, random.Next(2) == 0 ? Table(random) : null)).ToList();
        var lists = new SchoolLists { Categories = [.. kinds], Places = [new Place(Guid.NewGuid(), "Loft 2", 10, "", 44.1, -63.2)] };
        return new School(calendars, [.. Enumerable.Range(0, 6).Select(i => MakeEvent(random, calendars, kinds, "Event " + i))], lists);
    }

    private static Event MakeEvent(Random random, IReadOnlyList<Calendar> calendars, IReadOnlyList<Category> kinds, string title)
    {
        var home = Pick(random, calendars).Id;
        var day = $"2026-09-{random.Next(1, 25):00}";
        var timing = random.Next(3) == 0 ? AllDay(day) : Timed($"{day} {random.Next(8, 16):00}:00", $"{day} 17:00");
        var alsoIn = calendars.Where(_ => random.Next(4) == 0).Select(c => c.Id).ToArray();
        var facts = new EventFacts
        {
            Subtitle = "Sub " + title,
            CategoryId = random.Next(2) == 0 ? Pick(random, kinds).Id : null,
            Tags = [title.Replace(' ', '-')],
            Size = 12,
            Links = [new EventLink(LinkKind.More, "", "https://closed.example/" + random.Next(3))],
            IsDraft = random.Next(8) == 0,
            IsFree = random.Next(4) == 0,
            Reach = random.Next(3) == 0 ? Table(random) : null,
            AlsoIn = [.. alsoIn],
            Limits = [.. alsoIn.Where(_ => random.Next(2) == 0).Select(c => new PlacementLimit(c, (Detail)random.Next(3)))],
        };
        var e = Core.Events.Event.Create(
            Guid.CreateVersion7(), home, new EventDraft(title, "Loft 2", $"<p>About {title}</p>", timing, random.Next(2) == 0 ? Rule("FREQ=WEEKLY;COUNT=5") : null, null, facts), Now);
        if (e.Rule is not null && random.Next(2) == 0)
            e = e.Skip(e.Timing.Start.PlusDays(7), Now);
        if (e.Rule is not null && random.Next(2) == 0)
            e = e.CallOff(e.Timing.Start.PlusDays(14), true, Now);
        return random.Next(8) == 0 ? e.Delete(Now) : e;
    }

    /// <summary>One change of the school, of any kind; who notices it is what is asked.</summary>
    private static School Change(School school, Random random)
    {
        var (calendars, events, lists) = (school.Calendars.ToList(), school.Events.ToList(), school.Lists);
        var at = random.Next(events.Count);
        var e = events[at];
        Event Edited(Event to) => to.After(e, Later);
        switch (random.Next(18))
        {
            case 0: events[at] = Edited(e with { Title = "Another title" }); break;
            case 1: events[at] = Edited(e with { Place = "Old quay" }); break;
            case 2: events[at] = Edited(e with { Description = "<p>Another text</p>" }); break;
            case 3: events[at] = Edited(e with { Facts = e.Facts with { Tags = ["another"], Subtitle = "Another line" } }); break;
            case 4: events[at] = Edited(e with { Timing = e.Timing.At(e.Timing.Start.PlusDays(1)), TimedAt = Later }); break;
            case 5: events[at] = e.DeletedAt is null ? e.Delete(Later) : e.Restore(Later); break;
            case 6: events[at] = Edited(e with { Facts = e.Facts with { Reach = Table(random) } }); break;
            case 7: events[at] = Edited(e with { Facts = (e.Facts with { AlsoIn = [Pick(random, calendars).Id] }).Checked(e.CalendarId) }); break;
            case 8: events[at] = Edited(e with { Facts = e.Facts with { IsDraft = !e.Facts.IsDraft } }); break;
            case 9: events.Add(MakeEvent(random, calendars, [.. lists.Categories], "New one")); break;
            case 10: lists = lists with { Categories = [lists.Categories[0] with { Name = "Another kind" }, .. lists.Categories[1..]] }; break;
            case 11: lists = lists with { Categories = [lists.Categories[0] with { Reach = Table(random) }, .. lists.Categories[1..]] }; break;
            case 12: { var i = random.Next(4); calendars[i] = calendars[i] with { Title = "Another name", Description = "Another", Version = 9 }; break; }
            case 13: { var i = random.Next(4); calendars[i] = calendars[i] with { Reach = Table(random), Version = 9 }; break; }
            case 14 when e.Rule is not null: events[at] = Edited(e with { Changes = [.. e.Changes, new EventChange { Date = e.Timing.Start.PlusDays(21), Description = "<p>On this date</p>" }] }); break;
            case 15 when e.Rule is not null: events[at] = Edited(e with { Changes = [.. e.Changes, new EventChange { Date = e.Timing.Start.PlusDays(21), Title = "On this date" }] }); break;
            case 16 when e.Rule is not null: events[at] = Edited(e with { Changes = [.. e.Changes, new EventChange { Date = e.Timing.Start.PlusDays(21), Facts = new DateFacts { Subtitle = "This once", Tags = ["once"], WithoutLinks = [.. e.Facts.Links.Select(l => l.Address)] } }] }); break;
            case 17 when e.Rule is not null && lists.Categories.FirstOrDefault(c => c.Reach is null) is { } open: events[at] = Edited(e with { Changes = [.. e.Changes, new EventChange { Date = e.Timing.Start.PlusDays(21), Facts = new DateFacts { SetsCategory = true, CategoryId = open.Id } }] }); break;
            default: events[at] = Edited(e with { Facts = e.Facts with { Size = 99, Mark = 4 } }); break;
        }
        return new School(calendars, events, lists);
    }

    /// <summary>What a viewer may see, said plainly: nothing of the views plays a part.</summary>
    private static string Allowed(School school, Func<Calendar, Audience> audienceOf, bool isOut)
    {
        var said = new StringBuilder();
        foreach (var calendar in school.Calendars)
        {
            var audience = audienceOf(calendar);
            if (audience == Audience.Team || calendar.Reach.For(audience) > Detail.Nothing)
                said.AppendLine($"calendar {calendar.Id} {calendar.Title} {calendar.Mark} {calendar.Reach.For(audience)} {calendar.IsOutOfSearch}");
        }
        foreach (var e in school.Events.OrderBy(e => e.Id))
        {
            Detail In(Calendar calendar)
            {
                var audience = audienceOf(calendar);
                if (!e.CalendarIds.Contains(calendar.Id) || (isOut && e.DeletedAt is not null))
                    return Detail.Nothing;
                if (audience == Audience.Team)
                    return Detail.Everything;
                if (e.DeletedAt is not null || e.Facts.IsDraft)
                    return Detail.Nothing;
                return new[]
                {
                    calendar.Reach.For(audience),
                    e.Facts.Reach?.For(audience) ?? Detail.Everything,
                    school.Lists.Category(e.Facts.CategoryId)?.Reach?.For(audience) ?? Detail.Everything,
                    calendar.Id == e.CalendarId ? Detail.Everything : e.Facts.MostIn(calendar.Id) ?? Detail.Everything,
                }.Min();
            }
            var standing = school.Calendars.Select(c => (Calendar: c, Detail: In(c))).Where(s => s.Detail > Detail.Nothing).ToList();
            if (standing.Count == 0)
                continue;
            var best = standing.Max(s => s.Detail);
            var isTeams = standing.Any(s => audienceOf(s.Calendar) == Audience.Team);
            said.Append($"event {best} {isTeams} {e.CreatedAt} {e.Facts.IsFree} {string.Join(' ', standing.Select(s => $"{s.Calendar.Id}:{s.Detail}"))}");
            said.Append(string.Join(' ', e.Timing, e.Rule, string.Join(',', e.Skips), string.Join(',', e.Extras), e.TimedAt));
            said.Append(string.Join(' ', e.Changes.Where(c => c.Timing is not null || c.IsCalledOff).Select(c => (c.Date, c.Timing, c.IsCalledOff, c.At))));
            if (best >= Detail.Headlines)
                said.Append($"{e.Id} {e.Title} {e.Place} {e.Facts.Mark} {e.Facts.Reminder} {string.Join(' ', e.Changes.Where(c => c.Title is not null || c.Place is not null).Select(c => (c.Date, c.Title, c.Place)))}");
            if (best >= Detail.Everything)
            {
                var f = e.Facts;
                said.Append($"{e.Description} {f.Subtitle} {f.Size} {string.Join(',', f.Tags)} {string.Join(',', f.Links)} {school.Lists.Category(f.CategoryId)?.Name} {f.CategoryId} {string.Join(' ', e.Changes.Where(c => c.Description is not null || !c.Facts.IsNone).Select(c => (c.Date, c.Description, c.Facts.Subtitle, string.Join(',', c.Facts.Tags), c.Facts.CategoryId)))}");
            }
            // The team is told of all of it, where it also stands as far as they see these calendars.
            if (isTeams)
                said.Append($"{e.Version} {e.ChangedAt} {e.DeletedAt} {e.Facts.IsDraft} {e.Facts.Reach} {string.Join(',', school.Calendars.Where(c => audienceOf(c) == Audience.Team || c.Reach.For(audienceOf(c)) > Detail.Nothing).Where(c => e.CalendarIds.Contains(c.Id)).Select(c => $"{c.Id} {e.Facts.MostIn(c.Id)}"))}");
            said.AppendLine();
        }
        return said.ToString();
    }

    private static string Out(Publication publication, School school)
    {
        var p = Projection.Of(publication, Halifax, school.Calendars, school.Events, Later, school.Lists);
        var lines = OtherForms.Lines(p, Window.From, "busy");
        return string.Join(
            '\n',
            Encoding.UTF8.GetString(FeedWriter.Write(Ics.Head with { FilesUrl = "https://a.example/f/" }, p)),
            Encoding.UTF8.GetString(JCal.Write(Ics.Head, p)),
            Encoding.UTF8.GetString(OtherForms.Atom(Ics.Head, p, lines, "School", "off")),
            string.Join('\n', lines.Select(l => JsonSerializer.Serialize(new { l.Key, l.Title, l.Start, l.End, l.Place, l.Calendars, l.Category, l.Description, l.IsCalledOff, At = l.ChangedAt.ToString() }))),
            string.Join('\n', BusyWriter.Taken(p, Window)),
            p.ChangedAt.ToString(),
            p.IsOutOfSearch.ToString());
    }

    [Fact]
    public void What_readers_may_not_see_changes_no_byte_of_any_form_nor_its_date_and_what_they_may_see_does()
    {
        var (same, different) = (0, 0);
        for (var seed = 0; seed < 1500; seed++)
        {
            var random = new Random(seed);
            var before = Make(random);
            var after = Change(before, random);
            foreach (var audience in new[] { Audience.Members, Audience.LinkHolders, Audience.Everyone })
            {
                var publication = Core.Publishing.Publication.New(
                    new Guid(seed, 0, 0, new byte[8]), "k", new PublicationSettings { Title = "On", CalendarIds = [.. before.Calendars.Take(3).Select(c => c.Id)], Audience = audience }, Now);
                School Shown(School s) => s with { Calendars = [.. s.Calendars.Where(c => publication.CalendarIds.Contains(c.Id))] };
                var isSame = Allowed(Shown(before), _ => audience, isOut: true) == Allowed(Shown(after), _ => audience, isOut: true);
                var isOutSame = Out(publication, before) == Out(publication, after);
                Assert.True(!isSame || isOutSame, $"Seed {seed}, {audience}: what goes out tells of what is hidden.");

                // So its revision grows with what is seen, and with nothing else.
                var (was, now) = (before.Events.ToDictionary(e => e.Id), after.Events.ToDictionary(e => e.Id));
                var steps = now.Values.Select(e => (was.GetValueOrDefault(e.Id), (Event?)e)).Where(s => !ReferenceEquals(s.Item1, s.Item2)).ToList();
                var calendars = after.Calendars.ToDictionary(c => c.Id);
                var effect = Outgoing.EffectOf(publication, Halifax, calendars, after.Lists, steps, Later);
                var isAltered = effect != OutEffect.None
                    || before.Calendars.Zip(after.Calendars).Any(c => publication.CalendarIds.Contains(c.First.Id) && Outgoing.IsAltered(publication, c.First, c.Second))
                    || Outgoing.IsAltered(publication, Halifax, calendars, before.Lists, after.Lists, after.Events, Later);
                Assert.True(!isSame || !isAltered, $"Seed {seed}, {audience}: readers fetch again for what is hidden.");
                Assert.True(isOutSame || isAltered, $"Seed {seed}, {audience}: readers are not told of what is different.");
                _ = isSame ? same++ : different++;
            }
        }
        Assert.True(same > 1000 && different > 500, $"{same} {different}");
    }

    [Fact]
    public void What_somebody_of_the_school_may_not_see_changes_nothing_of_what_they_get()
    {
        var (same, different) = (0, 0);
        for (var seed = 0; seed < 1500; seed++)
        {
            var random = new Random(seed);
            var before = Make(random);
            var after = Change(before, random);
            var roles = before.Calendars.Where(_ => random.Next(3) == 0).ToDictionary(c => c.Id, _ => (CalendarRole)random.Next(4));
            foreach (var access in new[] { Access.Nobody, new Access(SchoolRole.Member, roles), new Access(SchoolRole.Administrator, roles) })
            {
                if (Allowed(before, access.AudienceOf, isOut: false) != Allowed(after, access.AudienceOf, isOut: false))
                {
                    different++;
                    continue;
                }
                var (was, now) = (Seen(before, access), Seen(after, access));
                Assert.True(was.Views.SequenceEqual(now.Views), $"Seed {seed}: what is hidden shows.");
                Assert.Equal(was.Clashes, now.Clashes);
                same++;
            }
        }
        Assert.True(same > 1000 && different > 500, $"{same} {different}");
    }

    private static (List<EventView> Views, List<string> Clashes) Seen(School school, Access access)
    {
        var eyes = Eyes.Of(access, school.Calendars.ToDictionary(c => c.Id), school.Lists, new Guid(7, 0, 0, new byte[8]));
        var views = eyes.View(school.Events).OrderBy(v => v.Uid, StringComparer.Ordinal).ToList();
        var clashes = ClashFinder.Find(views, Window, school.Lists, SchoolDays.None, closedLinks: new HashSet<string> { "https://closed.example/1" });
        return (views, [.. clashes.Select(c => $"{c.Key} {c.Event.Title} {c.Other?.Title} {c.About} {c.Span.Start}").Order(StringComparer.Ordinal)]);
    }

    [Fact]
    public void A_guess_at_a_title_or_a_place_is_confirmed_by_no_check()
    {
        var hidden = Calendar(new ReachTable(Detail.TimesOnly, Detail.Nothing, Detail.Nothing));
        var own = Calendar();
        var secret = Event(Timed("2026-09-10 09:00", "2026-09-10 10:00"), title: "Surprise", calendar: hidden.Id) with { Place = "Crow’s nest" };
        var guess = Event(Timed("2026-09-10 09:00", "2026-09-10 10:00"), title: "Surprise", calendar: own.Id) with { Place = "Crow’s nest" };
        var calendars = new Dictionary<Guid, Calendar> { [hidden.Id] = hidden, [own.Id] = own };
        IReadOnlyList<Clash> Of(Access access)
        {
            var eyes = Eyes.Of(access, calendars, SchoolLists.Empty, Guid.Empty);
            return ClashFinder.Find([.. eyes.View([secret]), eyes.Own(guess)], Window, SchoolLists.Empty, SchoolDays.None, new HashSet<Guid> { guess.Id });
        }
        Assert.Empty(Of(new Access(SchoolRole.Member, new Dictionary<Guid, CalendarRole> { [own.Id] = CalendarRole.Editor })));
        Assert.Equal(2, Of(new Access(SchoolRole.Administrator, new Dictionary<Guid, CalendarRole>())).Count);
    }
}
