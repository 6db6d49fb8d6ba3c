using Valtro.Core.Events;
using Valtro.Core.People;
using Valtro.Core.Proposals;
using Valtro.Core.Reach;
using Valtro.Core.SchoolYears;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Proposals;

/// <summary>What is offered to whom, what each answer does, and that nothing of what waits is an event.</summary>
public sealed class ProposalTests
{
    private static readonly Guid Home = new("11111111-0000-0000-0000-000000000000");
    private static readonly Guid Second = new("22222222-0000-0000-0000-000000000000");
    private static readonly Guid Third = new("33333333-0000-0000-0000-000000000000");
    private static readonly Guid Bea = Guid.NewGuid();
    private static readonly Guid Ines = Guid.NewGuid();
    private static readonly Instant Later = Now + Duration.FromHours(1);

    private static Access With(params (Guid Calendar, CalendarRole Role)[] roles) =>
        new(SchoolRole.Member, roles.ToDictionary(r => r.Calendar, r => r.Role));

    private static Event Wanted(params Guid[] calendars)
    {
        var e = Event(Timed("2026-10-05 09:00", "2026-10-05 10:00"), "FREQ=WEEKLY;COUNT=4", calendar: calendars[0]);
        return e with { Facts = e.Facts with { AlsoIn = [.. calendars.Skip(1)] } };
    }

    private static Proposal Offered(Event wanted, Access? may = null) =>
        Offering.OfNew(wanted, may ?? Access.Nobody, Bea, "Please", Now, SchoolDays.None).Proposal!;

    private static Proposal Changed(Event before, Event after, Access? may = null) =>
        Offering.OfChange(before, after, [], may ?? Access.Nobody, Bea, "", Now, SchoolDays.None).Proposal!;

    private static Decision Decide(Proposal p, Event? current, Answer answer, params Guid[] calendars) =>
        p.Decide(calendars, answer, "Because", current, Ines, Later, SchoolDays.None);

    private static (Guid, AskKind)[] AsksOf(Proposal p) => [.. p.Asks.Select(a => (a.CalendarId, a.Kind))];

    [Fact]
    public void A_new_event_is_there_at_once_where_its_author_keeps_the_events_and_waits_elsewhere()
    {
        var wanted = Wanted(Home, Second, Third);

        var own = Offering.OfNew(wanted, With((Home, CalendarRole.Editor), (Second, CalendarRole.Keeper), (Third, CalendarRole.Editor)), Bea, null, Now, SchoolDays.None);
        Assert.Null(own.Proposal);
        Assert.Equal([Home, Second, Third], own.Edits.Single().After.CalendarIds);

        var some = Offering.OfNew(wanted, With((Second, CalendarRole.Editor), (Home, CalendarRole.Proposer)), Bea, null, Now, SchoolDays.None);
        Assert.Equal([Second], some.Edits.Single().After.CalendarIds);
        Assert.Equal([(Home, AskKind.Standing), (Third, AskKind.Standing)], AsksOf(some.Proposal!));
        Assert.False(some.Proposal!.IsNew);
        Assert.Equal([Home, Third], some.Asked);

        var none = Offering.OfNew(wanted, With((Home, CalendarRole.Proposer)), Bea, null, Now, SchoolDays.None);
        Assert.Empty(none.Edits);
        Assert.True(none.Proposal!.IsNew);
        Assert.Equal(3, none.Proposal.Asks.Length);
    }

    [Fact]
    public void Each_calendars_keepers_answer_for_theirs_and_the_first_to_approve_is_the_home()
    {
        var wanted = Wanted(Home, Second, Third);
        var proposal = Offered(wanted);

        var first = Decide(proposal, null, Answer.Approved, Second);
        var made = first.Edits.Single();
        Assert.Null(made.Before);
        Assert.Equal((wanted.Id, Second, 1), (made.After.Id, made.After.CalendarId, made.After.Version));
        Assert.Equal([Second], made.After.CalendarIds);
        Assert.Equal(Later, made.After.CreatedAt);

        var second = Decide(first.After, made.After, Answer.Approved, Home);
        Assert.Equal([Second, Home], second.Edits.Single().After.CalendarIds);
        Assert.Equal(2, second.Edits.Single().After.Version);

        var third = Decide(second.After, second.Edits[0].After, Answer.Declined, Third);
        Assert.Empty(third.Edits);
        Assert.True(third.After.IsDecided);
        Assert.Equal([Answer.Approved, Answer.Approved, Answer.Declined], [.. new[] { Home, Second, Third }.Select(c => third.After.Asks.Single(a => a.CalendarId == c).Answer)]);
        Assert.Equal((Ines, "Because"), (third.After.Asks.Single(a => a.CalendarId == Third).By!.Value, third.After.Asks.Single(a => a.CalendarId == Third).Remark));
    }

    [Fact]
    public void Approved_for_several_at_once_the_home_that_was_meant_is_the_home()
    {
        var decision = Decide(Offered(Wanted(Home, Second, Third)), null, Answer.Approved, Third, Second, Home);
        var made = decision.Edits.Single().After;
        Assert.Equal(Home, made.CalendarId);
        Assert.Equal([Second, Third], made.Facts.AlsoIn.Order());
        Assert.Equal(1, made.Version);
        Assert.All(decision.After.Asks, a => Assert.Equal(1, a.EventVersion));
    }

    [Fact]
    public void What_was_answered_is_not_answered_again_and_what_is_sent_back_needs_a_word()
    {
        var proposal = Offered(Wanted(Home, Second));
        var declined = Decide(proposal, null, Answer.Declined, Home).After;
        Assert.Equal("proposal_decided", Code(() => Decide(declined, null, Answer.Approved, Home)));
        Assert.Equal("proposal_decided", Code(() => Decide(proposal, null, Answer.Approved, Third)));
        Assert.Equal("proposal_decided", Code(() => Decide(proposal, null, Answer.Open, Home)));
        Assert.Equal("remark_missing", Code(() => proposal.Decide([Home], Answer.SentBack, "  ", null, Ines, Later, SchoolDays.None)));
        Assert.Equal("text_too_long", Code(() => proposal.Decide([Home], Answer.Declined, new string('x', 501), null, Ines, Later, SchoolDays.None)));
        // Sent back it can still be approved, as when the remark was wrong.
        var back = Decide(proposal, null, Answer.SentBack, Home).After;
        Assert.Equal(Answer.Approved, Decide(back, null, Answer.Approved, Home).After.Asks.Single(a => a.CalendarId == Home).Answer);
    }

    [Fact]
    public void Revised_it_is_asked_again_of_all_but_those_who_declined()
    {
        var proposal = Offered(Wanted(Home, Second, Third));
        var answered = Decide(Decide(proposal, null, Answer.SentBack, Home).After, null, Answer.Declined, Second).After;
        var better = Wanted(Home, Second, Third) with { Id = proposal.EventId, Title = "Better" };
        var revised = answered.Revised(better, "Like this?", better.CalendarIds, Later);
        Assert.Equal(("Better", "Like this?", 2), (revised.Offered.Title, revised.Remark, revised.Version));
        Assert.Equal([(Home, Answer.Open), (Second, Answer.Declined), (Third, Answer.Open)], revised.Asks.OrderBy(a => a.CalendarId).Select(a => (a.CalendarId, a.Answer)));

        var approved = Decide(proposal, null, Answer.Approved, Home).After;
        Assert.Equal("proposal_in_part", Code(() => approved.Revised(better, "", better.CalendarIds, Later)));
    }

    [Fact]
    public void An_answer_is_taken_back_with_what_it_did()
    {
        var proposal = Offered(Wanted(Home, Second));
        var both = Decide(proposal, null, Answer.Approved, Home, Second);
        var made = both.Edits[0].After;

        var withoutSecond = both.After.Reopen([Second], made, [], Later, SchoolDays.None);
        Assert.Equal([Home], withoutSecond.Edits.Single().After.CalendarIds);
        Assert.Equal(2, withoutSecond.Edits[0].After.Version);
        Assert.False(withoutSecond.After.IsDecided);

        var withoutHome = both.After.Reopen([Home], made, [], Later, SchoolDays.None);
        Assert.Equal([Second], withoutHome.Edits.Single().After.CalendarIds);
        Assert.Null(withoutHome.Edits[0].After.DeletedAt);

        var alone = Decide(Offered(Wanted(Home)), null, Answer.Approved, Home);
        var gone = alone.After.Reopen([Home], alone.Edits[0].After, [], Later, SchoolDays.None);
        Assert.Equal(Later, gone.Edits.Single().After.DeletedAt);
        // Approved once more it comes out of the bin under the same identity, and its version goes on.
        var again = Decide(gone.After, gone.Edits[0].After, Answer.Approved, Home);
        Assert.Equal((null, 3), ((object?)again.Edits.Single().After.DeletedAt, again.Edits[0].After.Version));

        Assert.Equal("proposal_overtaken", Code(() => both.After.Reopen([Second], made with { Version = 7 }, [], Later, SchoolDays.None)));
        Assert.Equal("proposal_open", Code(() => proposal.Reopen([Home], null, [], Later, SchoolDays.None)));
        Assert.Empty(Decide(proposal, null, Answer.Declined, Home).After.Reopen([Home], null, [], Later, SchoolDays.None).Edits);
    }

    [Fact]
    public void A_change_waits_for_the_home_and_is_laid_onto_what_others_changed_meanwhile()
    {
        var before = Wanted(Home);
        var proposal = Changed(before, before with { Title = "Sails" });
        Assert.Equal([(Home, AskKind.Contents)], AsksOf(proposal));

        var current = before with { Place = "Loft 9", Version = 5, Sequence = 3 };
        var after = Decide(proposal, current, Answer.Approved, Home).Edits.Single().After;
        Assert.Equal(("Sails", "Loft 9", 6), (after.Title, after.Place, after.Version));
        // A title alone makes no new dates for those who follow (RFC 5545, 3.8.7.4).
        Assert.Equal(3, after.Sequence);

        Assert.Equal("proposal_overtaken", Code(() => Decide(proposal, before with { Title = "Ropes", Version = 5 }, Answer.Approved, Home)));
        Assert.Equal("event_in_bin", Code(() => Decide(proposal, before.Delete(Later), Answer.Approved, Home)));
        Assert.Equal("proposal_overtaken", Code(() => Decide(proposal, null, Answer.Approved, Home)));
        Assert.Equal("proposal_overtaken", Code(() => Decide(proposal, before with { CalendarId = Second }, Answer.Approved, Home)));
        // It can be declined all the same.
        Assert.Empty(Decide(proposal, null, Answer.Declined, Home).Edits);
    }

    [Fact]
    public void A_change_that_is_taken_back_leaves_the_event_as_it_was()
    {
        var before = Wanted(Home);
        var proposal = Changed(before, before with { Title = "Sails", Place = "Slip 4" });
        var approved = Decide(proposal, before, Answer.Approved, Home);
        var back = approved.After.Reopen([Home], approved.Edits[0].After, [], Later, SchoolDays.None).Edits.Single().After;
        Assert.Equal((before.Title, before.Place, 3), (back.Title, back.Place, back.Version));
    }

    [Fact]
    public void Where_an_event_shall_also_stand_is_asked_there_after_its_home()
    {
        var before = Wanted(Home);
        var wanted = before with { Title = "Sails", Facts = before.Facts with { AlsoIn = [Second, Third] } };

        // From who keeps the home, the change is made at once and the others are asked.
        var keeper = Offering.OfChange(before, wanted, [], With((Home, CalendarRole.Editor), (Third, CalendarRole.Editor)), Bea, "", Now, SchoolDays.None);
        Assert.Equal("Sails", keeper.Edits.Single().After.Title);
        Assert.Equal([Home, Third], keeper.Edits[0].After.CalendarIds);
        Assert.Equal([(Second, AskKind.Standing)], AsksOf(keeper.Proposal!));

        var proposal = Changed(before, wanted);
        Assert.Equal([(Home, AskKind.Contents), (Second, AskKind.Standing), (Third, AskKind.Standing)], AsksOf(proposal));
        Assert.Equal("proposal_home_first", Code(() => Decide(proposal, before, Answer.Approved, Second)));
        var home = Decide(proposal, before, Answer.Approved, Home);
        Assert.Equal([Home], home.Edits.Single().After.CalendarIds);
        Assert.Equal([Home, Second], Decide(home.After, home.Edits[0].After, Answer.Approved, Second).Edits.Single().After.CalendarIds);
        // Who keeps both says both at once.
        Assert.Equal([Home, Second], Decide(proposal, before, Answer.Approved, Second, Home).Edits.Single().After.CalendarIds);
    }

    [Fact]
    public void An_event_is_moved_only_out_of_a_calendar_one_keeps_and_nothing_is_no_proposal()
    {
        var before = Wanted(Home);
        Assert.Equal("proposal_home", Code(() => Changed(before, before with { CalendarId = Second })));
        Assert.Equal([(Second, AskKind.Moving)], AsksOf(Changed(before, before with { CalendarId = Second }, With((Home, CalendarRole.Editor), (Second, CalendarRole.Proposer)))));
        Assert.Equal("nothing_proposed", Code(() => Changed(before, before)));
    }

    [Fact]
    public void That_an_event_goes_is_proposed_too()
    {
        var before = Wanted(Home);
        var proposal = Changed(before, before.Delete(Now));
        var gone = Decide(proposal, before, Answer.Approved, Home);
        Assert.Equal(Later, gone.Edits.Single().After.DeletedAt);
        Assert.Null(gone.After.Reopen([Home], gone.Edits[0].After, [], Later, SchoolDays.None).Edits.Single().After.DeletedAt);
    }

    [Fact]
    public void What_comes_with_a_change_comes_and_goes_with_its_answer()
    {
        var before = Wanted(Home);
        var rest = Wanted(Home);
        var proposal = Offering.OfChange(before, before with { Title = "First part" }, [rest], Access.Nobody, Bea, "", Now, SchoolDays.None).Proposal!;
        var decision = Decide(proposal, before, Answer.Approved, Home);
        Assert.Equal(2, decision.Edits.Count);
        Assert.Equal((null, rest.Id, Later), ((object?)decision.Edits[1].Before, decision.Edits[1].After.Id, decision.Edits[1].After.CreatedAt));
        var back = decision.After.Reopen([Home], decision.Edits[0].After, [decision.Edits[1].After], Later, SchoolDays.None);
        Assert.Equal([null, Later], back.Edits.Select(e => e.After.DeletedAt));
    }

    [Fact]
    public void What_takes_the_place_of_an_earlier_change_asks_for_all_of_it()
    {
        var before = Wanted(Home);
        var rest = Wanted(Home);
        var earlier = Offering.OfChange(before, before with { Title = "Sails", Facts = before.Facts with { AlsoIn = [Second, Third] } }, [rest], Access.Nobody, Bea, "Two boats come", Now, SchoolDays.None).Proposal!;
        var next = Changed(before, before with { Title = "Sails", Place = "Slip 4" });
        var carrying = next.Carrying([earlier]);
        Assert.Equal([(Home, AskKind.Contents), (Second, AskKind.Standing), (Third, AskKind.Standing)], AsksOf(carrying));
        Assert.Equal(("Two boats come", "Slip 4", rest.Id), (carrying.Remark, carrying.Offered.Place, carrying.Added.Single().Id));
        // What was said for a calendar is not asked there again, and one's own word goes before.
        var declined = Decide(earlier, before, Answer.Declined, Second).After;
        Assert.Equal([(Home, AskKind.Contents), (Third, AskKind.Standing)], AsksOf((next with { Remark = "One boat" }).Carrying([declined])));
        Assert.Equal("One boat", (next with { Remark = "One boat" }).Carrying([earlier]).Remark);
        Assert.Equal(AsksOf(next), AsksOf(next.Carrying([])));
    }

    [Fact]
    public void Who_offers_decides_and_sees()
    {
        var open = Calendar(title: "Open");
        var closed = Calendar(new ReachTable(Detail.Nothing, Detail.Nothing, Detail.Nothing), "Closed");
        var editor = With((Second, CalendarRole.Editor));
        Assert.True(editor.MayOffer(open));
        Assert.False(editor.MayOffer(closed));
        Assert.False(Access.Nobody.MayOffer(open));
        Assert.False(With((open.Id, CalendarRole.Reader)).MayOffer(open));
        Assert.True(With((closed.Id, CalendarRole.Proposer)).MayOffer(closed));
        Assert.False((editor with { LooksAs = Audience.Everyone }).MayOffer(open));
        Assert.True(With((Home, CalendarRole.Keeper)).MayDecide(Home));
        Assert.False(With((Home, CalendarRole.Editor)).MayDecide(Home));
        var proposal = Offered(Wanted(Home, Second));
        Assert.True(Access.Nobody.Sees(proposal, Bea));
        Assert.False(With((Home, CalendarRole.Reader), (Second, CalendarRole.Proposer)).Sees(proposal, Ines));
        Assert.True(editor.Sees(proposal, Ines));
    }

    // Whatever is offered to whichever calendars and answered in whichever order: the event stands in exactly the calendars
    // whose keepers approved it and those its author keeps, and there is none while there are none.
    [Fact]
    public void In_whichever_order_it_is_answered_an_event_stands_just_where_it_was_approved()
    {
        var random = new Random(20261125);
        for (var run = 0; run < 2_000; run++)
        {
            Guid[] all = [Home, Second, Third, Guid.NewGuid()];
            var wanted = Wanted([.. all.Where(_ => random.Next(3) > 0).DefaultIfEmpty(Home).OrderBy(_ => random.Next())]);
            var may = With([.. all.Where(_ => random.Next(4) == 0).Select(c => (c, CalendarRole.Editor))]);
            var offering = Offering.OfNew(wanted, may, Bea, "", Now, SchoolDays.None);
            var current = offering.Edits.Count > 0 ? offering.Edits[0].After : null;
            var standing = wanted.CalendarIds.Where(c => may.Has(c, CalendarRole.Editor)).ToHashSet();
            Check();
            if (offering.Proposal is not { } proposal)
                continue;
            for (var step = 0; step < 12; step++)
            {
                var one = proposal.Asks[random.Next(proposal.Asks.Length)];
                Decision decision;
                if (one.IsUndecided)
                {
                    var several = proposal.Asks.Where(a => a.IsUndecided && (a == one || random.Next(3) == 0)).Select(a => a.CalendarId).ToArray();
                    var answer = random.Next(3) switch { 0 => Answer.Declined, 1 => Answer.SentBack, _ => Answer.Approved };
                    decision = Decide(proposal, current, answer, several);
                    if (answer == Answer.Approved)
                        standing.UnionWith(several);
                }
                else
                {
                    var several = proposal.Asks.Where(a => !a.IsUndecided && (a == one || random.Next(3) == 0)).Select(a => a.CalendarId).ToArray();
                    decision = proposal.Reopen(several, current, [], Later, SchoolDays.None);
                    standing.ExceptWith(several);
                }
                proposal = decision.After;
                foreach (var (before, after) in decision.Edits)
                {
                    Assert.Equal(before, current);
                    Assert.Equal((current?.Version ?? 0) + 1, after.Version);
                    current = after;
                }
                Check();
            }

            void Check() => Assert.Equal(standing.Order(), current is { DeletedAt: null } ? current.CalendarIds.Order() : []);
        }
    }
}
