using Valtro.Core.Events;
using Valtro.Core.Reach;

namespace Valtro.Demo;

/// <summary>The demo school's categories and places, and what its events have beside.</summary>
public sealed class DemoLists
{
    private readonly Category lesson;
    private readonly Category test;
    private readonly Category due;
    private readonly Category trip;
    private readonly Category evening;
    private readonly Category duty;

    /// <summary>Makes the lists.</summary>
    /// <param name="newId">Gives identities.</param>
    public DemoLists(Func<Guid> newId)
    {
        lesson = new Category(newId(), "Lesson", null, false);
        test = new Category(newId(), "Test", null, true);
        due = new Category(newId(), "Hand in", null, false);
        trip = new Category(newId(), "Trip", null, false);
        evening = new Category(newId(), "Evening for families", null, false);
        duty = new Category(newId(), "Duty", null, false);
        Lists = new SchoolLists
        {
            Categories = [lesson, test, new Category(newId(), "Examination", test.Id, true), due, trip, evening, duty],
            Places =
            [
                Room(newId(), "Great hall", 220), Room(newId(), "Chapel", 120), Room(newId(), "Chart room", 24), Room(newId(), "Room 4", 26), Room(newId(), "Room 5", 26),
                Room(newId(), "Loft 1", 18), Room(newId(), "Loft 2", 18), Room(newId(), "Sail loft", 40), Room(newId(), "Shed B", 30), Room(newId(), "Shed C", 30),
                Room(newId(), "Boathouse", 90), Room(newId(), "Slip 1", 60), Room(newId(), "Slip 2", 60),
                new Place(newId(), "Lighthouse", 35, "1 Light Road, Lanternfell", 44.6421, -63.5703),
                new Place(newId(), "Old quay", null, "Old Quay, Lanternfell", 44.6402, -63.5689),
            ],
            NoticeDays = 3,
            TestsADay = 1,
        }.Checked();
    }

    /// <summary>Categories, places and limits.</summary>
    public SchoolLists Lists { get; }

    /// <summary>What an event has beside, by its title.</summary>
    /// <param name="title">The title.</param>
    /// <param name="isSeries">Whether it repeats.</param>
    public EventFacts FactsOf(string title, bool isSeries)
    {
        bool Has(params string[] words) => words.Any(w => title.Contains(w, StringComparison.OrdinalIgnoreCase));
        var facts = EventFacts.None;
        if (Has("examinations"))
            facts = facts with { CategoryId = Lists.Categories[2].Id, Tags = ["quiet"] };
        else if (Has(" test", "quiz") && !Has("pump"))
            facts = facts with { CategoryId = test.Id, Reminder = 24 * 60 };
        else if (Has(" due", "Bring"))
            facts = facts with { CategoryId = due.Id };
        else if (Has("trip", "Visit to", "walk"))
            facts = facts with { CategoryId = trip.Id, Tags = ["oilskins"] };
        else if (Has("evening", "concert", "Prize-giving") && !isSeries)
            facts = facts with { CategoryId = evening.Id };
        else if (Has("duty", "pump", "Tool store", "First-aid"))
            facts = facts with { CategoryId = duty.Id };
        else if (isSeries && !Has("row", "Singing", "Rehearsal", "Assembly", "meeting", "practice", "repair"))
            facts = facts with { CategoryId = lesson.Id };
        // Where everybody musters is nobody else's matter.
        if (Has("drill"))
            facts = facts with { Reach = ReachTable.MembersOnly };
        return title switch
        {
            "Slip-way open days" => facts with { Subtitle = "Steam, splice and plot a course", Links = [new EventLink(LinkKind.More, "What to see where", "https://lanternfell.example/open-days")] },
            "Winter concert" => facts with { Subtitle = "Harbour choir and shanty band", Links = [new EventLink(LinkKind.Tickets, "Reserve seats", "https://lanternfell.example/tickets")] },
            "Careers evening" => facts with { Links = [new EventLink(LinkKind.Register, "Tell us you are coming", "https://lanternfell.example/careers")] },
            "Summer programme" => facts with { Links = [new EventLink(LinkKind.Register, "Take a place", "https://lanternfell.example/summer")] },
            _ => facts,
        };
    }

    private static Place Room(Guid id, string name, int capacity) => new(id, name, capacity, "12 Harbour Street, Lanternfell", null, null);
}
