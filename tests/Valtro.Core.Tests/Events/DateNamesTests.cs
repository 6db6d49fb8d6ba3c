using FsCheck.Xunit;
using Valtro.Core.Events;
using Valtro.Core.Publishing;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Events;

public class DateNamesTests
{
    private static readonly Instant Later = Now + Duration.FromHours(1);

    private static Event Lessons(string rule = "FREQ=WEEKLY;BYDAY=TU,TH") => Event(Timed("2026-09-01 09:30", "2026-09-01 11:00"), rule);

    private static EventDraft Draft(Event e) => new(e.Title, e.Place, e.Description, e.Timing, e.Rule);

    private static SeriesPlan Plan(Event e, EditScope scope, LocalDateTime date, EventDraft draft, Guid? calendar = null) =>
        SeriesEditor.Plan(e, new SeriesEdit(scope, date, draft, calendar ?? e.CalendarId), new Dictionary<LocalDateTime, MisfitChoice>(), Later, Guid.NewGuid);

    private static DateName[] Names(params Event[] events) =>
        [.. events.SelectMany(e => e.Dates.From(LocalDateTime.MinIsoValue).TakeWhile(d => d < At("2028-09-01 00:00")).Select(d => DateNames.Of(e.Uid, e.Names, d)))];

    private static Event Moved(Event e, string start, string end, string? rule = null) =>
        Plan(e, EditScope.EveryDate, e.Timing.Start, Draft(e) with { Timing = Timed(start, end), Rule = rule is null ? e.Rule : Rule(rule) }).After;

    [Fact]
    public void A_series_moved_by_an_hour_keeps_the_names_of_its_dates()
    {
        var (before, after) = (Lessons(), Moved(Lessons(), "2026-09-01 10:30", "2026-09-01 12:00"));
        before = before with { Id = after.Id, Uid = after.Uid };
        Assert.Equal(Names(before), Names(after));
        // Also those far beyond what was compared one by one, and after it is moved back.
        Assert.Equal(At("2051-06-08 09:30"), DateNames.Of(after.Uid, after.Names, At("2051-06-08 10:30")).Start);
        Assert.Empty(Moved(after, "2026-09-01 09:30", "2026-09-01 11:00").Names);
    }

    [Fact]
    public void A_one_time_event_keeps_its_name_wherever_it_goes()
    {
        var e = Event(Timed("2026-10-05 09:00", "2026-10-05 10:00"));
        var name = Assert.Single(Names(e));
        var moved = Moved(e, "2027-03-01 15:00", "2027-03-01 16:00");
        Assert.Equal(name, Assert.Single(Names(moved)));
        // In another calendar, as whole days, and as the first of a series, too.
        var allDay = Plan(moved, EditScope.EveryDate, moved.Timing.Start, Draft(moved) with { Timing = AllDay("2027-03-03") }, Guid.NewGuid()).After;
        Assert.Equal(name, Assert.Single(Names(allDay)));
        var series = Plan(moved, EditScope.EveryDate, moved.Timing.Start, Draft(moved) with { Rule = Rule("FREQ=DAILY;COUNT=3") }).After;
        Assert.Equal(name, Names(series)[0]);
    }

    [Fact]
    public void The_second_part_of_a_split_takes_the_names_along()
    {
        var e = Lessons();
        var names = Names(e);
        var plan = Plan(e, EditScope.FromThisDate, At("2026-10-06 09:30"), Draft(e) with { Timing = Timed("2026-10-06 14:00", "2026-10-06 15:30") });
        Assert.Equal(names, Names(plan.After, plan.Second!));
        // Split once more, and moved as a whole.
        var again = Plan(plan.Second!, EditScope.FromThisDate, At("2026-11-03 14:00"), Draft(plan.Second!) with { Timing = Timed("2026-11-03 08:00", "2026-11-03 09:00") });
        Assert.Equal(names, Names(plan.After, again.After, again.Second!));
    }

    [Fact]
    public void What_becomes_an_event_of_its_own_keeps_its_name()
    {
        var e = Lessons();
        var date = At("2026-09-03 09:30");
        var changed = Plan(e, EditScope.ThisDate, date, SeriesEditor.DraftOf(e, date) with { Title = "Knots" }).After;
        var draft = Draft(changed) with { Rule = Rule("FREQ=WEEKLY;BYDAY=TU") };
        var plan = SeriesEditor.Plan(
            changed, new SeriesEdit(EditScope.EveryDate, e.Timing.Start, draft, e.CalendarId), new Dictionary<LocalDateTime, MisfitChoice> { [date] = MisfitChoice.KeepAsEvent }, Later, Guid.NewGuid);
        Assert.Equal(new DateName(e.Uid, date), Assert.Single(Names(Assert.Single(plan.Kept))));
    }

    [Fact]
    public void A_state_that_is_put_back_has_its_names_again()
    {
        var e = Lessons();
        var moved = Moved(e, "2026-09-02 10:30", "2026-09-02 12:00", "FREQ=WEEKLY;BYDAY=WE,FR");
        Assert.Empty(Names(moved).Except(Names(e)));
        Assert.Equal(Names(e), Names(e.After(moved, Later)));
    }

    /// <summary>Whatever is done: no two dates have one name, a name leads to the date that has it, and what was not touched keeps its own.</summary>
    [Property(MaxTest = 150)]
    public void Names_are_each_date_s_own_and_stay(byte[] steps)
    {
        string[] rules = ["FREQ=WEEKLY;BYDAY=TU,TH", "FREQ=WEEKLY;BYDAY=MO,WE,FR", "FREQ=DAILY", "FREQ=WEEKLY;INTERVAL=2;BYDAY=TU", "FREQ=MONTHLY;BYMONTHDAY=8", "FREQ=WEEKLY;BYDAY=TU;COUNT=20"];
        var events = new List<Event> { Lessons() };
        foreach (var step in steps.Take(6))
        {
            var at = step % events.Count;
            var e = events[at];
            var dates = e.Dates.FirstStarts(6).ToArray();
            if (dates.Length == 0)
                continue;
            var date = dates[step / 7 % dates.Length];
            var before = Names([.. events]);
            switch (step % 5)
            {
                case 0:
                    e = Plan(e, EditScope.EveryDate, date, Draft(e) with { Timing = e.Timing.At(e.Timing.Start.PlusMinutes((step % 9 - 4) * 30)) }).After;
                    // Moved within its day, each date is the same as before; one added on a day that has one falls together with it.
                    if (e.Extras.IsEmpty && e.Timing.Start.Date == events[at].Timing.Start.Date)
                        Assert.Empty(before.Except(Names([.. events.Take(at), e, .. events.Skip(at + 1)])));
                    break;
                case 1:
                    e = Plan(e, EditScope.EveryDate, date, Draft(e) with { Rule = Rule(rules[step % rules.Length]) }).After;
                    break;
                case 2 when e.Rule is not null:
                    var plan = Plan(e, EditScope.FromThisDate, date, Draft(e) with { Timing = e.Timing.At(date.PlusMinutes(step % 3 * 45)) });
                    if (plan.Second is not null)
                        events.Add(plan.Second);
                    e = plan.After;
                    break;
                case 3 when dates.Length > 1 && e.Rule is not null:
                    e = e.Skip(date, Later);
                    Assert.Empty(Names(e).Except(before));
                    break;
                case 4 when e.Rule is not null && !e.Dates.Makes(date.PlusHours(3)):
                    e = e.AddDate(date.PlusHours(3), Later);
                    Assert.Empty(Names(events[at]).Except(Names(e)));
                    break;
            }
            events[at] = e;
            var names = Names([.. events]);
            Assert.Equal(names.Length, names.Distinct().Count());
            foreach (var own in events)
            {
                foreach (var d in own.Dates.FirstStarts(40))
                    Assert.Contains(d, DateNames.Named(own.Uid, own.Names, DateNames.Of(own.Uid, own.Names, d)));
            }
        }
    }

    [Fact]
    public void A_date_is_found_by_its_first_name_and_is_no_longer_planned_when_it_goes()
    {
        var calendar = Calendar();
        var e = Event(Timed("2026-09-01 09:30", "2026-09-01 11:00"), "FREQ=WEEKLY;BYDAY=TU,TH", calendar: calendar.Id);
        Projection Of(params Event[] events) => Projection.Of(Publication(calendar), Halifax, [calendar], events, Now);
        var key = PublishedOccurrence.KeyOf(new DateName(e.Uid, At("2026-09-08 09:30")));
        Assert.Equal(At("2026-09-08 09:30"), Of(e).Find(key)!.LocalStart);
        var moved = Moved(e, "2026-09-01 10:30", "2026-09-01 12:00");
        var found = Of(moved).Find(key)!;
        Assert.Equal((At("2026-09-08 10:30"), key), (found.LocalStart, found.Key));
        var skipped = moved.Skip(At("2026-09-08 10:30"), Later);
        Assert.Null(Of(skipped).Find(key));
        Assert.True(Of(skipped).IsNoLonger(key));
        Assert.True(Of(e.Delete(Later)).IsNoLonger(key));
        Assert.Null(Of(e.Delete(Later)).Find(key));
        // What was never shown is never told of.
        Assert.False(Projection.Of(Publication(calendar), Halifax, [calendar with { Reach = new Core.Reach.ReachTable(Core.Reach.Detail.Nothing, Core.Reach.Detail.Nothing, Core.Reach.Detail.Nothing) }], [e.Delete(Later)], Now).IsNoLonger(key));
        Assert.False(Of(e).IsNoLonger(PublishedOccurrence.KeyOf(new DateName(Guid.NewGuid().ToString("D"), At("2026-09-08 09:30")))));
    }
}
