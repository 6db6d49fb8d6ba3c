using Valtro.Core.Commands;
using Valtro.Core.Events;
using Valtro.Core.People;
using Valtro.Core.Proposals;
using Valtro.Core.Publishing;
using Valtro.Core.Reach;
using Valtro.Core.SchoolYears;
using Valtro.Core.Tests.ICalendar;
using Valtro.Core.Time;
using Valtro.Core.Views;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Events;

/// <summary>One date of a series with files, links, category and tags of its own.</summary>
public class DateFactsTests
{
    private static readonly Instant Later = Now + Duration.FromHours(1);
    private static readonly Guid Lessons = Guid.NewGuid(), Trips = Guid.NewGuid();
    private static readonly SchoolLists Lists = SchoolLists.Empty with { Categories = [new Category(Lessons, "Lessons", null, false), new Category(Trips, "Trips", null, false)] };
    private static readonly EventFile Plan = File("plan.pdf"), Sheet = File("worksheet.pdf");
    private static readonly EventLink Room = new(LinkKind.Video, "Room", "https://meet.example/7"), Map = new(LinkKind.More, "Map", "https://lanternfell.example/map");
    private static readonly EventFacts Facts = new() { CategoryId = Lessons, Tags = ["knots"], Links = [Room], Files = [Plan] };
    private static readonly LocalDateTime Third = At("2026-09-15 09:30");

    private readonly Calendar calendar = Calendar();

    private static EventFile File(string name) => new(Guid.NewGuid(), Guid.NewGuid(), name, "application/pdf", 10);

    private Event Weekly() => Event(Timed("2026-09-01 09:30", "2026-09-01 11:00"), "FREQ=WEEKLY;COUNT=5", calendar: calendar.Id) with { Facts = Facts };

    private static Event On(Event e, LocalDateTime date, Func<EventFacts, EventFacts> edit, EditScope scope = EditScope.ThisDate)
    {
        var draft = scope == EditScope.ThisDate ? SeriesEditor.DraftOf(e, date) : new EventDraft(e.Title, e.Place, e.Description, e.Timing, e.Rule, null, e.Facts);
        return SeriesEditor.Plan(e, new SeriesEdit(scope, date, draft with { Facts = edit(draft.Facts!) }, e.CalendarId), new Dictionary<LocalDateTime, MisfitChoice>(), Later, Guid.NewGuid).After;
    }

    private Event WithSheet() => On(Weekly(), Third, f => f with { Files = f.Files.Add(Sheet), Links = [Map], Tags = [], CategoryId = Trips, Subtitle = "To the harbour" });

    private Projection Out(Event e, PublicationChoices? choices = null, SchoolLists? lists = null, Audience audience = Audience.Everyone) => Projection.Of(
        Core.Publishing.Publication.New(Guid.NewGuid(), "k", Settings(calendar) with { Choices = choices ?? PublicationChoices.None, Audience = audience }, Now), Halifax, [calendar], [e], Now, lists ?? Lists);

    private static PublishedOccurrence[] Dates(Projection p) => [.. p.In(new TimeWindow(Day("2026-09-01"), Day("2026-10-10"), Halifax))];

    [Fact]
    public void A_date_has_its_own_and_the_others_stay_as_they_are()
    {
        var e = WithSheet();
        Assert.Equal(Facts, e.Facts);
        var own = e.FactsOn(e.All.Of(Third));
        Assert.Equal(["plan.pdf", "worksheet.pdf"], own.Files.Select(f => f.Name));
        Assert.Equal(("Map", Trips, "To the harbour", 0), (own.Links.Single().Label, own.CategoryId!.Value, own.Subtitle, own.Tags.Length));
        Assert.Equal(own, SeriesEditor.DraftOf(e, Third).Facts);
        // No reader's calendar has moved.
        Assert.Equal(0, e.Sequence);
        Assert.Empty(On(e, Third, _ => Facts).Changes);
    }

    [Fact]
    public void What_the_series_gets_later_comes_to_the_date_too_and_what_it_loses_goes()
    {
        var list = File("list.pdf");
        var later = On(WithSheet(), Third, f => f with { Files = [list], Tags = ["knots", "ropes"] }, EditScope.EveryDate);
        var own = later.FactsOn(later.All.Of(Third));
        Assert.Equal(["list.pdf", "worksheet.pdf"], own.Files.Select(f => f.Name));
        Assert.Equal(["ropes"], own.Tags);
        Assert.Equal(Trips, own.CategoryId);
    }

    [Fact]
    public void Other_contents_of_the_series_file_are_a_file_of_the_date_s_own()
    {
        var newer = Plan with { ContentId = Guid.NewGuid() };
        var e = On(Weekly(), Third, f => f with { Files = [newer] });
        var own = Assert.Single(e.FactsOn(e.All.Of(Third)).Files);
        Assert.Equal((newer.ContentId, newer.ContentId), (own.Id, own.ContentId));
        Assert.Equal(2, e.Files.Count());
    }

    [Fact]
    public void Whatever_is_said_of_a_date_is_what_it_has_and_saying_it_again_changes_nothing()
    {
        EventFile[] files = [Plan, Sheet, File("a"), File("b")];
        EventLink[] links = [Room, Map, Map with { Label = "Other" }, new(LinkKind.Tickets, "", "https://t.example/")];
        string[] tags = ["knots", "Ropes", "sea", "air"];
        for (var seed = 0; seed < 500; seed++)
        {
            var random = new Random(seed);
            T[] Some<T>(T[] all) => [.. all.Where(_ => random.Next(2) == 0)];
            EventFacts Any() => new EventFacts { Files = [.. Some(files)], Links = [.. Some(links)], Tags = [.. Some(tags)], CategoryId = random.Next(3) switch { 0 => Lessons, 1 => Trips, _ => null }, Subtitle = random.Next(2) == 0 ? "" : "x" }.Checked(Guid.Empty);
            var (series, date, next) = (Any(), Any(), Any());
            var own = DateFacts.Between(date, series);
            var has = own.On(series);
            Assert.Equal((date.Subtitle, date.CategoryId), (has.Subtitle, has.CategoryId));
            Assert.Equivalent(date.Files, has.Files, strict: true);
            Assert.Equivalent(date.Tags, has.Tags, strict: true);
            Assert.Equivalent(date.Links, has.Links, strict: true);
            Assert.Equal(own, DateFacts.Between(has, series));
            Assert.Equal(own.IsNone, has == series);
            // Over another series nothing is there twice, and what is its own stays.
            var moved = own.On(next);
            Assert.Equal(moved.Files.Length, moved.Files.DistinctBy(f => f.Id).Count());
            Assert.Equal(moved.Tags.Length, moved.Tags.Distinct(StringComparer.OrdinalIgnoreCase).Count());
            Assert.Superset(own.Files.Select(f => f.Id).ToHashSet(), moved.Files.Select(f => f.Id).ToHashSet());
        }
    }

    [Fact]
    public void It_goes_with_its_date_when_the_series_moves_is_split_or_leaves_it_alone()
    {
        var e = WithSheet();
        SeriesPlan Plan(EditScope scope, string on, Func<EventDraft, EventDraft> edit, MisfitChoice? choice = null) => SeriesEditor.Plan(
            e, new SeriesEdit(scope, At(on), edit(new EventDraft(e.Title, e.Place, e.Description, e.Timing.At(scope == EditScope.EveryDate ? e.Timing.Start : At(on)), e.Rule, null, e.Facts)), e.CalendarId),
            choice is { } c ? new Dictionary<LocalDateTime, MisfitChoice> { [Third] = c } : [], Later, Guid.NewGuid);

        var moved = Plan(EditScope.EveryDate, "2026-09-01 09:30", d => d with { Timing = Timed("2026-09-03 10:00", "2026-09-03 11:00") }).After;
        Assert.Equal((At("2026-09-17 10:00"), Sheet), (moved.Changes.Single().Date, moved.Changes.Single().Facts.Files.Single()));
        Assert.Equal(Sheet, Plan(EditScope.FromThisDate, "2026-09-08 09:30", d => d with { Title = "Knots" }).Second!.Changes.Single().Facts.Files.Single());
        var alone = Plan(EditScope.EveryDate, "2026-09-01 09:30", d => d with { Rule = Rule("FREQ=WEEKLY;COUNT=2") }, MisfitChoice.KeepAsEvent).Kept.Single();
        Assert.Equal(["plan.pdf", "worksheet.pdf"], alone.Facts.Files.Select(f => f.Name));
        Assert.Equal(Trips, alone.Facts.CategoryId);
    }

    [Fact]
    public void A_feed_gives_the_date_its_own_and_the_series_the_rest()
    {
        var feed = Ics.Of(Out(WithSheet()), Ics.Head with { FilesUrl = "https://a.example/f/" }).Lines.ToList();
        var (series, date) = (feed[..feed.LastIndexOf("BEGIN:VEVENT")], feed[feed.LastIndexOf("BEGIN:VEVENT")..]);
        Assert.DoesNotContain(series, l => l.Contains("worksheet", StringComparison.Ordinal) || l.Contains("harbour", StringComparison.Ordinal));
        Assert.Contains(series, l => l.StartsWith("CATEGORIES:", StringComparison.Ordinal) && l.EndsWith("Lessons,knots", StringComparison.Ordinal));
        Assert.Equal(2, date.Count(l => l.StartsWith("ATTACH", StringComparison.Ordinal)));
        Assert.Contains(date, l => l.StartsWith("ATTACH", StringComparison.Ordinal) && l.Contains("worksheet.pdf", StringComparison.Ordinal));
        Assert.Contains(date, l => l.StartsWith("CATEGORIES:", StringComparison.Ordinal) && l.EndsWith(",Trips", StringComparison.Ordinal));
        Assert.Contains("URL:https://lanternfell.example/map", date);
        Assert.Contains(date, l => l.StartsWith("DESCRIPTION:To the harbour", StringComparison.Ordinal));
    }

    [Fact]
    public void A_publication_of_a_category_has_the_dates_that_are_of_it()
    {
        string[] Sent(Guid category) => [.. Dates(Out(WithSheet(), new PublicationChoices { CategoryIds = [category] })).Select(d => $"{d.LocalStart:MM-dd} {d.Category}")];
        Assert.Equal(["09-15 Trips"], Sent(Trips));
        Assert.Equal(["09-01 Lessons", "09-08 Lessons", "09-22 Lessons", "09-29 Lessons"], Sent(Lessons));
        Assert.Equal(4, Dates(Out(WithSheet(), new PublicationChoices { Tags = ["Knots"] })).Length);
        // A date has one name, however it was chosen.
        var e = WithSheet();
        Assert.Equal(Dates(Out(e))[2].Key, Dates(Out(e, new PublicationChoices { CategoryIds = [Trips] })).Single().Key);
        // So do readers who choose on the page.
        Assert.Single(Dates(Out(WithSheet()).Narrowed(ReaderChoice.Read(null, "Trips", null))));
    }

    [Fact]
    public void A_date_s_own_category_is_never_a_way_around_what_it_allows()
    {
        var inside = Lists with { Categories = [.. Lists.Categories.Select(c => c.Id == Trips ? c with { Reach = new ReachTable(Detail.Everything, Detail.Nothing, Detail.Nothing) } : c)] };
        // It was narrowed later: the date is shown to nobody who gets less of it than of the others.
        Assert.Equal(4, Dates(Out(WithSheet(), lists: inside)).Length);
        Assert.Equal(5, Dates(Out(WithSheet(), lists: inside, audience: Audience.Members)).Length);
        Assert.Empty(Dates(Out(WithSheet(), new PublicationChoices { CategoryIds = [Trips] }, inside)));
        var state = new CommandState
        {
            Now = Later,
            PersonId = null,
            Access = new Access(SchoolRole.Administrator, new Dictionary<Guid, CalendarRole>()),
            Eyes = Eyes.Of(Access.Nobody, new Dictionary<Guid, Calendar>(), inside, Guid.Empty),
            Calendars = new Dictionary<Guid, Calendar> { [calendar.Id] = calendar },
            Lists = inside,
            Days = SchoolDays.None,
            Events = new Dictionary<Guid, Event> { [Guid.Empty] = Weekly() },
        };
        EditEvent Edit(EditScope scope) => new(Guid.Empty, null, new SeriesEdit(scope, scope == EditScope.ThisDate ? Third : At("2026-09-01 09:30"), SeriesEditor.DraftOf(Weekly(), scope == EditScope.ThisDate ? Third : At("2026-09-01 09:30")) with { Facts = Facts with { CategoryId = Trips } }, calendar.Id), new Dictionary<LocalDateTime, MisfitChoice>());
        Assert.Equal("date_category", Code(() => Edit(EditScope.ThisDate).Apply(state)));
        Assert.Equal(Trips, Edit(EditScope.EveryDate).Apply(state).Steps.Single().After.Facts.CategoryId);
    }

    [Fact]
    public void Two_who_give_different_dates_files_do_not_meet()
    {
        var origin = Weekly();
        var mine = On(origin, Third, f => f with { Files = f.Files.Add(Sheet) });
        var theirs = On(origin, At("2026-09-08 09:30"), f => f with { Tags = ["once"] });
        var merged = EventMerge.Of(origin, mine, theirs, Later, SchoolDays.None, out var conflicts);
        Assert.Empty(conflicts);
        Assert.Equal([1, 0], merged.Changes.Select(c => c.Facts.Tags.Length));
        Assert.Contains(Sheet, merged.Files);
    }

    [Fact]
    public void Fields_of_a_date_hold_its_own_and_what_is_typed_goes_along_to_more_dates()
    {
        var view = WithSheet().Seen(Lists);
        var (one, every) = (EventFields.Of(view, Third, EditScope.ThisDate), EventFields.Of(view, Third, EditScope.EveryDate));
        Assert.Equal([2, 1], new[] { one, every }.Select(f => f.Facts.Files.Length));
        var typed = one with { Facts = one.Facts with { Files = one.Facts.Files.Add(File("third.pdf")), Mark = 5 } };
        Assert.Equal(3, typed.CarriedOver(one, EditScope.ThisDate, every, EditScope.EveryDate, Third.Date).Facts.Files.Length);
        // Back to one date: what one date cannot have of its own stays the series'.
        var back = (every with { Facts = every.Facts with { Tags = ["sea"], Mark = 5 } }).CarriedOver(every, EditScope.EveryDate, one, EditScope.ThisDate, Third.Date);
        Assert.Equal(["sea"], back.Facts.Tags);
        Assert.Null(back.Facts.Mark);
    }
}
