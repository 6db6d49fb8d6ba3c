using Valtro.Core.Commands;
using Valtro.Core.Events;
using Valtro.Core.People;
using Valtro.Core.Reach;
using Valtro.Core.SchoolYears;
using Valtro.Core.Views;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Commands;

/// <summary>(state, command) → what becomes of it: authorised, checked and pure.</summary>
public class CommandTests
{
    private static readonly Instant Later = Now + Duration.FromHours(1);
    private static readonly Calendar Own = Calendar(title: "Own");
    private static readonly Calendar Open = Calendar(title: "Open");
    private static readonly Calendar Closed = Calendar(new ReachTable(Detail.Nothing, Detail.Nothing, Detail.Nothing), "Closed");

    private static CommandState State(CalendarRole? role, params Event[] events)
    {
        var calendars = new[] { Own, Open, Closed }.ToDictionary(c => c.Id);
        var access = new Access(SchoolRole.Member, role is { } r ? new Dictionary<Guid, CalendarRole> { [Own.Id] = r } : []);
        var person = Guid.NewGuid();
        return new CommandState
        {
            Now = Later,
            PersonId = person,
            Access = access,
            Eyes = Eyes.Of(access, calendars, SchoolLists.Empty, person),
            Calendars = calendars,
            Lists = SchoolLists.Empty,
            Days = SchoolDays.None,
            Events = events.ToDictionary(e => e.Id),
        };
    }

    private static Event Series(Guid calendar, params Guid[] alsoIn) =>
        Event(Timed("2026-09-01 09:00", "2026-09-01 10:00"), "FREQ=WEEKLY;COUNT=6", calendar: calendar) is var e ? e with { Facts = new EventFacts { AlsoIn = [.. alsoIn] } } : e;

    /// <summary>One of each kind that changes an event.</summary>
    private static IEnumerable<EventCommand> All(Event e)
    {
        var date = e.Timing.Start.PlusDays(7);
        var draft = SeriesEditor.DraftOf(e, e.Timing.Start) with { Title = "Another" };
        yield return new EditEvent(e.Id, e.Version, new SeriesEdit(EditScope.EveryDate, e.Timing.Start, draft, e.CalendarId), new Dictionary<LocalDateTime, MisfitChoice>());
        yield return new EditEvent(e.Id, e.Version, new SeriesEdit(EditScope.FromThisDate, date, draft with { Timing = e.Timing.At(date) }, e.CalendarId), new Dictionary<LocalDateTime, MisfitChoice>());
        foreach (var step in new[] { DateStep.Delete, DateStep.LeaveOut, DateStep.CallOff })
            yield return new StepEvent(e.Id, e.Version, step, date);
        yield return new StepEvent(e.Id, e.Version, DateStep.AddDate, e.Timing.Start.PlusDays(2));
        yield return new ChangeDates(e.Id, [date], new BulkAction { Place = "Old quay" });
        yield return new PutState(e.Id, e.Version, e with { Title = "As it was" });
    }

    [Fact]
    public void Every_command_counts_one_version_and_is_refused_to_who_may_not_and_hidden_from_who_does_not_see()
    {
        foreach (var command in All(Series(Own.Id)).Select((_, i) => i))
        {
            var e = Series(Own.Id);
            var mine = All(e).ElementAt(command);
            var step = mine.Apply(State(CalendarRole.Editor, e)).Steps[0];
            Assert.Equal((e.Version + 1, e, Later), (step.After.Version, step.Before, step.After.ChangedAt));
            Assert.Throws<NotAllowedException>(() => mine.Apply(State(CalendarRole.Proposer, e)));
            Assert.Throws<NotAllowedException>(() => mine.Apply(State(null, e)));
            var hidden = Series(Closed.Id);
            Assert.Throws<NotFoundException>(() => All(hidden).ElementAt(command).Apply(State(CalendarRole.Editor, hidden)));
            Assert.Throws<NotFoundException>(() => mine.Apply(State(CalendarRole.Editor)));
        }
    }

    [Fact]
    public void A_command_from_an_older_state_is_told_the_present_one_as_its_author_gets_it()
    {
        var e = Series(Own.Id);
        var now = (e with { Title = "Meanwhile" }).After(e, Now);
        foreach (var command in All(e).Where(c => c is not ChangeDates))
        {
            var stale = Assert.Throws<StaleWriteException>(() => command.Apply(State(CalendarRole.Editor, now)));
            Assert.Equal("Meanwhile", Assert.IsType<EventView>(stale.Current).Title);
        }
    }

    [Fact]
    public void Every_command_is_taken_back_and_done_again_to_the_same_state()
    {
        var e = Series(Own.Id);
        foreach (var command in All(e))
        {
            var after = command.Apply(State(CalendarRole.Editor, e)).Steps[0].After;
            var undone = Assert.Single(new PutState(e.Id, null, e) { Over = after }.Apply(State(CalendarRole.Editor, after)).Steps).After;
            Assert.True(undone.SaysAs(e));
            Assert.Equal(after.Version + 1, undone.Version);
            var redone = Assert.Single(new PutState(e.Id, null, after) { Over = e }.Apply(State(CalendarRole.Editor, undone)).Steps).After;
            Assert.True(redone.SaysAs(after));
            // Over what somebody else did since it is refused.
            var others = (after with { Place = "Elsewhere" }).After(after, Later);
            Assert.Throws<StaleWriteException>(() => new PutState(e.Id, null, e) { Over = after }.Apply(State(CalendarRole.Editor, others)));
        }
    }

    [Fact]
    public void A_series_too_dense_for_everybody_else_is_refused_on_every_way_in_and_can_be_thrown_away_where_it_is()
    {
        var timing = Timed("2026-09-01 09:00", "2026-09-01 10:00");
        var dense = Event(timing, "FREQ=SECONDLY", calendar: Own.Id);
        var draft = new EventDraft("Watch", "", "", timing, Rule("FREQ=SECONDLY"));
        var e = Series(Own.Id);
        var edit = new EditEvent(e.Id, e.Version, new SeriesEdit(EditScope.EveryDate, e.Timing.Start, draft, Own.Id), new Dictionary<LocalDateTime, MisfitChoice>());
        foreach (var command in new Command[] { new MakeEvent(Guid.NewGuid(), Own.Id, draft), edit, new FillEvents([dense]), new PutState(e.Id, null, dense with { Id = e.Id }), new OfferEvent(Guid.NewGuid(), Own.Id, draft, null), new OfferChange(edit, null) })
        {
            var refused = Assert.Throws<InvalidInputException>(() => command.Apply(State(command is ProposalCommand ? CalendarRole.Proposer : CalendarRole.Editor, e)));
            Assert.True(refused.Code is "rule_too_dense", command.Name + ": " + refused.Code);
        }
        var gone = new StepEvent(dense.Id, dense.Version, DateStep.Delete, null).Apply(State(CalendarRole.Editor, dense)).Steps[0].After;
        Assert.NotNull(gone.DeletedAt);
    }

    [Fact]
    public void Several_are_one_or_none()
    {
        var (a, b) = (Series(Own.Id), Series(Open.Id));
        var both = new Together([.. new[] { a, b }.Select(e => new ChangeDates(e.Id, [e.Timing.Start], new BulkAction { Place = "Old quay" }))]);
        Assert.Throws<NotAllowedException>(() => both.Apply(State(CalendarRole.Editor, a, b)));
        Assert.Equal(2, new Together([.. All(a).Take(1), new MakeEvent(Guid.NewGuid(), Own.Id, SeriesEditor.DraftOf(a, a.Timing.Start))]).Apply(State(CalendarRole.Editor, a)).Steps.Count);
    }

    [Fact]
    public void Of_a_selection_what_may_not_be_changed_is_left_and_named()
    {
        var (mine, theirs, allDay) = (Series(Own.Id), Series(Open.Id), Event(Core.Time.EventTiming.AllDay(Day("2026-09-01"), Day("2026-09-02")), null, calendar: Own.Id));
        ChangeMany Many(BulkAction action, params Event[] of) => new([.. of.Select(e => new ChangeDates(e.Id, [e.Timing.Start], action))]);
        var done = Many(new BulkAction { StartsAt = new LocalTime(14, 15) }, mine, theirs, allDay).Apply(State(CalendarRole.Editor, mine, theirs, allDay));
        Assert.Equal(new LocalTime(14, 15), SeriesEditor.DraftOf(done.Steps.Single().After, mine.Timing.Start).Timing.Start.TimeOfDay);
        Assert.Equal([(theirs.Id, "forbidden"), (allDay.Id, "no_time_of_day")], done.Left.Select(l => (l.EventId, l.Code)));
        // When nothing can be changed, that is the answer.
        Assert.Throws<NotAllowedException>(() => Many(new BulkAction { Place = "Quay" }, theirs).Apply(State(CalendarRole.Editor, theirs)));
        var gone = Guid.NewGuid();
        Assert.Throws<NotFoundException>(() => new ChangeMany([new ChangeDates(gone, [mine.Timing.Start], new BulkAction { Place = "Quay" })]).Apply(State(CalendarRole.Editor, mine)));
        // Into a calendar one may not edit nothing is put.
        Assert.Throws<NotAllowedException>(() => Many(new BulkAction { AlsoIn = Open.Id }, mine).Apply(State(CalendarRole.Editor, mine)));
        Assert.Equal([Open.Id], BulkEditor.Apply(mine, [mine.Timing.Start], new BulkAction { AlsoIn = Open.Id }, NodaConstants.UnixEpoch, SchoolDays.None).Facts.AlsoIn);
    }

    [Fact]
    public void Nobody_takes_an_event_out_of_a_calendar_they_are_not_told_of()
    {
        var e = Series(Own.Id, Closed.Id, Open.Id);
        var draft = SeriesEditor.DraftOf(e, e.Timing.Start) with { Title = "Another", Facts = new EventFacts() };
        var after = new EditEvent(e.Id, null, new SeriesEdit(EditScope.EveryDate, e.Timing.Start, draft, Own.Id), new Dictionary<LocalDateTime, MisfitChoice>())
            .Apply(State(CalendarRole.Editor, e)).Steps[0].After;
        Assert.Equal([Closed.Id], after.Facts.AlsoIn);
        Assert.Equal([Own.Id], State(CalendarRole.Editor).Eyes.View(after)!.StandsIn);
    }

    [Fact]
    public void An_event_is_made_in_calendars_that_are_there_and_known()
    {
        var draft = new EventDraft("Keel", "", "", AllDay("2026-09-01"), null);
        CommandOutcome Made(Guid calendar, params Guid[] alsoIn) =>
            new MakeEvent(Guid.NewGuid(), calendar, draft with { Facts = new EventFacts { AlsoIn = [.. alsoIn] } }).Apply(State(CalendarRole.Editor) with { Binned = new HashSet<Guid> { Guid.Empty } });
        Assert.Single(Made(Own.Id).Steps);
        Assert.Throws<NotAllowedException>(() => Made(Open.Id));
        Assert.Throws<NotFoundException>(() => Made(Closed.Id));
        Assert.Throws<NotFoundException>(() => Made(Guid.NewGuid()));
        // In a calendar of others it stands when they agree.
        Assert.Throws<NotAllowedException>(() => Made(Own.Id, Open.Id));
        Assert.Throws<NotAllowedException>(() => Made(Own.Id, Guid.NewGuid()));
    }

    [Fact]
    public void A_change_moves_the_stamps_of_the_details_that_show_it_and_of_no_others()
    {
        var e = Series(Own.Id);
        (bool Times, bool Headlines, bool Everything) Moved(Event to)
        {
            var after = to.After(e, Later).Stamps;
            return (after.Times.At == Later, after.Headlines.At == Later, after.Everything.At == Later);
        }
        Assert.Equal((true, true, true), Moved(e with { Timing = e.Timing.At(e.Timing.Start.PlusHours(1)) }));
        Assert.Equal((true, true, true), Moved(e.CallOff(e.Timing.Start, true, Later)));
        Assert.Equal((true, true, true), Moved(e with { Facts = e.Facts with { IsFree = true } }));
        Assert.Equal((false, true, true), Moved(e with { Title = "Another" }));
        Assert.Equal((false, true, true), Moved(e with { Changes = [new EventChange { Date = e.Timing.Start, Place = "Old quay" }] }));
        Assert.Equal((false, false, true), Moved(e with { Description = "<p>Another</p>" }));
        Assert.Equal((false, false, true), Moved(e with { Facts = e.Facts with { Tags = ["oak"] } }));
        Assert.Equal((false, false, false), Moved(e with { Facts = e.Facts with { IsDraft = true, Reach = ReachTable.MembersOnly, AlsoIn = [Open.Id] } }));
        Assert.Equal((false, false, false), Moved(e.Delete(Later)));
        Assert.Equal((0, 1), (((e with { Title = "Another" }).After(e, Later)).Sequence, e.CallOff(e.Timing.Start, true, Later).Sequence));
        Assert.Same(e, (e with { TimedAt = Later }).After(e, Later));
    }
}
