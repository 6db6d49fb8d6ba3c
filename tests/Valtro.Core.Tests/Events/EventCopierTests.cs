using Valtro.Core.Commands;
using Valtro.Core.Events;
using Valtro.Core.People;
using Valtro.Core.Proposals;
using Valtro.Core.Reach;
using Valtro.Core.SchoolYears;
using Valtro.Core.Time;
using Valtro.Core.Views;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Events;

/// <summary>Another event like one: of a date, or of a whole series with all that was done by hand; and moves that have to be asked for.</summary>
public class EventCopierTests
{
    private static readonly Guid Me = Guid.NewGuid();
    private readonly Calendar home = Calendar(title: "Rigging 2"), other = Calendar(title: "Diary"), shut = Calendar(new ReachTable(Detail.Nothing, Detail.Nothing, Detail.Nothing), "Staff");

    private Event Series() => SeriesEditor.Plan(
        Event(Timed("2026-09-01 09:30", "2026-09-01 11:00"), "FREQ=WEEKLY;BYDAY=TU,TH;COUNT=8", calendar: home.Id).Skip(At("2026-09-03 09:30"), Now).CallOff(At("2026-09-10 09:30"), true, Now).AddDate(At("2026-09-12 10:00"), Now),
        new SeriesEdit(EditScope.ThisDate, At("2026-09-15 09:30"), new EventDraft("Test", "Quay", "", Timed("2026-09-15 14:00", "2026-09-15 15:00"), null, null, new EventFacts { Tags = ["test"] }), home.Id),
        new Dictionary<LocalDateTime, MisfitChoice>(), Now, Guid.NewGuid).After;

    private CommandState State(Event e, CalendarRole? at = CalendarRole.Editor, CalendarRole elsewhere = CalendarRole.Editor, IReadOnlySet<Guid>? followed = null)
    {
        var calendars = new[] { home, other, shut }.ToDictionary(c => c.Id);
        var access = new Access(SchoolRole.Member, at is { } role ? new Dictionary<Guid, CalendarRole> { [home.Id] = role, [other.Id] = elsewhere } : new Dictionary<Guid, CalendarRole> { [other.Id] = elsewhere }) { Followed = followed ?? new HashSet<Guid>() };
        return new CommandState
        {
            Now = Now + Duration.FromHours(2),
            PersonId = Me,
            Access = access,
            Eyes = Eyes.Of(access, calendars, SchoolLists.Empty, Me),
            Calendars = calendars,
            Lists = SchoolLists.Empty,
            Days = SchoolDays.None,
            Events = new Dictionary<Guid, Event> { [e.Id] = e },
        };
    }

    private static string[] Seen(Event e) =>
        [.. e.All.In(new TimeWindow(Day("2026-08-20"), Day("2026-12-20"), Halifax)).OrderBy(d => d.Span.Start).Select(d => d.Span.Start.ToString("MM-dd HH:mm", null) + (d.Change?.IsCalledOff == true ? " off" : "") + (d.Change?.Title is { } t ? " " + t : ""))];

    private static CommandOutcome Copy(Event e, CommandState state, string? date = null, bool isSeries = true, BoardShift? shift = null) =>
        new CopyEvent(e.Id, date is null ? null : At(date), isSeries, shift ?? new BoardShift(), null).Apply(state);

    [Fact]
    public void A_series_is_copied_with_all_that_was_done_by_hand()
    {
        var e = Series();
        var copy = Copy(e, State(e), shift: new BoardShift(CalendarId: other.Id)).Steps.Single();
        Assert.Null(copy.Before);
        Assert.Equal(Seen(e), Seen(copy.After));
        Assert.Equal((other.Id, 0, 1, null), (copy.After.CalendarId, copy.After.Sequence, copy.After.Version, copy.After.RelatedTo));
        Assert.NotEqual(e.Uid, copy.After.Uid);
        Assert.Equal(["test"], copy.After.Changes.Single(c => c.Title == "Test").Facts.Tags);
    }

    [Fact]
    public void Somewhere_else_its_dates_go_along()
    {
        var e = Series();
        var copy = Copy(e, State(e), "2026-09-01 09:30", shift: new BoardShift(Days: 8, Minutes: 30)).Steps.Single().After;
        // Its Tuesdays go to Wednesdays of the week after, its Thursdays stay what they are a week later.
        Assert.Equal(["09-09 10:00", "09-16 10:00", "09-17 10:00 off"], Seen(copy)[..3]);
        // What has a time of its own keeps it, as with every move of a series.
        Assert.Contains("09-22 14:00 Test", Seen(copy));
        Assert.Equal(Seen(e).Length, Seen(copy).Length);
        // By whole weeks nothing else changes, however far; an end goes along.
        var next = Copy(e, State(e), shift: new BoardShift(Days: 7 * 26)).Steps.Single().After;
        Assert.Equal(e.Changes.Select(c => c.Date.PlusDays(182)), next.Changes.Select(c => c.Date));
        // With closures left out it is so too.
        var lessons = e with { Follows = SchoolDayRule.Of(SchoolDayChoice.AnyDay, ClosureChoice.LeaveOut, [], []) };
        Assert.Equal("2027-03-02", Copy(lessons, State(lessons), shift: new BoardShift(Days: 7 * 26)).Steps.Single().After.Timing.Start.Date.ToString("uuuu-MM-dd", null));
        // Dates one by one go along as well.
        var listed = Event(Timed("2026-09-01 09:30", "2026-09-01 11:00"), calendar: home.Id) with { Extras = [At("2026-09-04 09:30"), At("2026-09-11 09:30")] };
        Assert.Equal(["09-04 10:30", "09-07 10:30", "09-14 10:30"], Seen(Copy(listed, State(listed), shift: new BoardShift(Days: 3, Minutes: 60)).Steps.Single().After));
        var ended = Event(Timed("2026-09-01 09:30", "2026-09-01 11:00"), "FREQ=MONTHLY;UNTIL=20261201T133000Z", calendar: home.Id);
        Assert.Equal(["12-01 09:30"], Seen(Copy(ended, State(ended), shift: new BoardShift(Days: 91)).Steps.Single().After));
    }

    [Fact]
    public void One_date_is_copied_as_it_is_then_and_happens_once()
    {
        var e = Series();
        var copy = Copy(e, State(e), "2026-09-15 09:30", isSeries: false, new BoardShift(Days: 2, Place: "Loft 9")).Steps.Single().After;
        Assert.Equal(("Test", "Loft 9", true, At("2026-09-17 14:00")), (copy.Title, copy.Place, copy.IsOneTime, copy.Timing.Start));
        Assert.Equal(["test"], copy.Facts.Tags);
        Assert.Equal("no_such_date", Code(() => Copy(e, State(e), "2026-09-02 09:30", isSeries: false)));
        Assert.Equal("shift_too_far", Code(() => Copy(e, State(e), shift: new BoardShift(Days: 40_000))));
    }

    [Fact]
    public void Whoever_reads_all_of_it_may_copy_it_and_gets_no_more_than_they_read()
    {
        var e = Series() with { Facts = new EventFacts { Reach = new ReachTable(Detail.Everything, Detail.Headlines, Detail.Nothing), AlsoIn = [shut.Id] } };
        var copy = Copy(e, State(e, at: null), shift: new BoardShift(CalendarId: other.Id)).Steps.Single().After;
        Assert.Equal((null, 0), (copy.Facts.Reach, copy.Facts.AlsoIn.Length));
        Assert.Equal(Seen(e), Seen(copy));
        // Where less is read there is nothing to copy, and where nothing may be offered it goes nowhere.
        var less = e with { CalendarId = shut.Id, Facts = EventFacts.None };
        Assert.Throws<NotFoundException>(() => Copy(less, State(less), shift: new BoardShift(CalendarId: other.Id)));
        Assert.Throws<NotAllowedException>(() => Copy(e, State(e, elsewhere: CalendarRole.Reader, at: CalendarRole.Reader), shift: new BoardShift(CalendarId: other.Id)));
    }

    [Fact]
    public void Where_keepers_have_to_be_asked_the_copy_is_offered()
    {
        var e = Series();
        var outcome = Copy(e, State(e, CalendarRole.Reader, CalendarRole.Proposer), shift: new BoardShift(CalendarId: other.Id));
        Assert.Empty(outcome.Steps);
        Assert.Equal(Seen(e), Seen(outcome.Proposal!.Offered));
        Assert.Equal([other.Id], outcome.Proposal.Asks.Select(a => a.CalendarId));
    }

    [Fact]
    public void A_copy_of_what_comes_from_elsewhere_says_so()
    {
        var e = Series();
        var copy = Copy(e, State(e, followed: new HashSet<Guid> { home.Id }), shift: new BoardShift(CalendarId: other.Id)).Steps.Single().After;
        Assert.Equal(e.Uid, copy.RelatedTo);
    }

    [Fact]
    public void Many_are_copied_dates_or_whole_and_stay_as_they_are()
    {
        var e = Series();
        EventStep[] Done(bool whole) => [.. new ChangeMany([new ChangeDates(e.Id, [At("2026-09-01 09:30"), At("2026-09-15 09:30")], new BulkAction { CopyTo = other.Id, CopiesSeries = whole })]).Apply(State(e, CalendarRole.Reader)).Steps];
        Assert.All(Done(false).Concat(Done(true)), s => Assert.Equal((null, other.Id), (s.Before, s.After.CalendarId)));
        Assert.Equal(["Rigging test", "Test"], Done(false).Select(s => s.After.Title));
        Assert.Equal(Seen(e), Seen(Assert.Single(Done(true)).After));
        Assert.Throws<NotAllowedException>(() => new ChangeMany([new ChangeDates(e.Id, [At("2026-09-01 09:30")], new BulkAction { CopyTo = other.Id })]).Apply(State(e, elsewhere: CalendarRole.Reader)));
    }

    [Fact]
    public void A_move_to_where_one_may_only_propose_waits_there_and_can_be_taken_back()
    {
        var e = Series();
        var state = State(e, elsewhere: CalendarRole.Proposer);
        var edit = new EditEvent(e.Id, null, new SeriesEdit(EditScope.EveryDate, e.Timing.Start, new EventDraft("Knots", e.Place, e.Description, e.Timing, e.Rule, null, e.Facts), other.Id), new Dictionary<LocalDateTime, MisfitChoice>());
        var outcome = new OfferChange(edit, "Please").Apply(state);
        // What is one's own is changed at once; where it goes is asked.
        var step = Assert.Single(outcome.Steps);
        Assert.Equal(("Knots", home.Id, 0), (step.After.Title, step.After.CalendarId, step.After.Facts.AlsoIn.Length));
        Assert.Equal([(other.Id, AskKind.Moving)], outcome.Proposal!.Asks.Select(a => (a.CalendarId, a.Kind)));

        var yes = outcome.Proposal.Decide([other.Id], Answer.Approved, null, step.After, Guid.NewGuid(), Now, SchoolDays.None);
        var moved = yes.Edits.Single().After;
        Assert.Equal((other.Id, 0), (moved.CalendarId, moved.Facts.AlsoIn.Length));
        Assert.Equal(Seen(e), Seen(moved));
        Assert.Equal(home.Id, yes.After.Reopen([other.Id], moved, [], Now, SchoolDays.None).Edits.Single().After.CalendarId);
        Assert.Empty(outcome.Proposal.Decide([other.Id], Answer.Declined, null, step.After, Guid.NewGuid(), Now, SchoolDays.None).Edits);

        // Whom it will be asked is known before, where it stands there already too.
        Assert.Equal([other.Id], Offering.ToAsk([other.Id], [home.Id, other.Id], state.Access));
        Assert.Empty(Offering.ToAsk([home.Id, other.Id], [home.Id, other.Id], state.Access));
        // Out of a calendar one does not keep nothing is moved.
        Assert.Equal("proposal_home", Code(() => new OfferChange(edit, "").Apply(State(e, CalendarRole.Proposer, CalendarRole.Proposer))));
        // Where it stands already it is asked all the same, and stands there once then.
        var both = e with { Facts = e.Facts with { AlsoIn = [other.Id] } };
        var there = new OfferChange(edit with { Edit = edit.Edit with { Draft = edit.Edit.Draft with { Facts = both.Facts } } }, "").Apply(State(both, elsewhere: CalendarRole.Proposer));
        Assert.Equal([other.Id], there.Steps.Single().After.Facts.AlsoIn);
        var one = there.Proposal!.Decide([other.Id], Answer.Approved, null, there.Steps.Single().After, Guid.NewGuid(), Now, SchoolDays.None).Edits.Single().After;
        Assert.Equal([other.Id], one.CalendarIds);
    }
}
