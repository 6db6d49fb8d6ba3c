using System.Buffers.Binary;
using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.People;
using Valtro.Core.Publishing;
using Valtro.Core.Reach;
using Valtro.Core.Recurrence;
using Valtro.Core.SchoolYears;
using Valtro.Core.Sources;
using Valtro.Core.Time;
using static NodaTime.IsoDayOfWeek;

namespace Valtro.Demo;

/// <summary>Somebody of the demo school.</summary>
public sealed record DemoPerson(Guid Id, string Name, string Email, SchoolRole Role);

/// <summary>
/// Lanternfell School of Boatbuilding and Navigation: a made-up school whose year lies around a given day. The same
/// day gives the same school, identities included.
/// </summary>
public sealed class DemoSchool
{
    /// <summary>The password of everyone in the demo school.</summary>
    public const string Password = "lantern by night";

    private readonly List<Calendar> calendars = [];
    private readonly List<Event> events = [];
    private readonly Instant madeAt;
    private readonly Guid workshop;
    private readonly DemoLists lists;
    private readonly LocalDate today;
    private int ids;

    public DemoSchool(LocalDate today)
    {
        this.today = today;
        madeAt = Zones.ToInstant(SchoolYear.StartOfYear(today).At(new LocalTime(9, 0)), Zone);
        Id = NextId();
        workshop = NextId();
        Year = new DemoYear(today, NextId(), workshop);
        lists = new DemoLists(NextId);
        People =
        [
            new DemoPerson(NextId(), "Marit Quill", "marit.quill@lanternfell.example", SchoolRole.Administrator),
            new DemoPerson(NextId(), "Owen Tarbell", "owen.tarbell@lanternfell.example", SchoolRole.Administrator),
            new DemoPerson(NextId(), "Ines Harrow", "ines.harrow@lanternfell.example", SchoolRole.Member),
            new DemoPerson(NextId(), "Tomas Reed", "tomas.reed@lanternfell.example", SchoolRole.Member),
            new DemoPerson(NextId(), "Bea Lindqvist", "bea.lindqvist@lanternfell.example", SchoolRole.Member),
            new DemoPerson(NextId(), "Samir Dole", "samir.dole@lanternfell.example", SchoolRole.Member),
        ];
        MakeDiary();
        MakeClasses();
        MakeGroups();
        MakeRooms();
        MakeStaff();
        Publications =
        [
            Publish("lanternfell", "What is on at Lanternfell", "The school's diary: terms and closures, open days, exhibitions and evenings.", OutletView.Month, "School diary"),
            Publish("families", "Families’ page", "Workshop classes, choir and rowing in one place.", OutletView.List, "School diary", "Boatbuilding 1", "Rigging 2", "Harbour choir", "Rowing group"),
            Publish(
                "evenings",
                "Evenings and open days",
                "What neighbours can come to.",
                OutletView.Cards,
                s => s with
                {
                    Look = s.Look with { Views = [OutletView.Cards, OutletView.Small], NewsDays = 14, Theme = s.Look.Theme with { Preset = ThemePreset.Slate, Corner = 8 } },
                    Choices = s.Choices with { Kinds = EventKinds.OneTime, DaysBack = 0 },
                },
                "School diary", "Harbour choir"),
            Publish(
                "staff",
                "Staff",
                "For the school’s members: duties, bookings and the diary.",
                OutletView.Week,
                s => s with { Audience = Audience.Members, Look = s.Look with { Views = [OutletView.Week, OutletView.List] } },
                "School diary", "Staff", "Boathouse bookings", "Loft bookings"),
        ];
    }

    public static string Name => "Lanternfell School of Boatbuilding and Navigation";

    public static string ShortName => "Lanternfell";

    public static DateTimeZone Zone { get; } = Zones.Get("America/Halifax");

    public Guid Id { get; }

    public DemoYear Year { get; }

    public SchoolLists Lists => lists.Lists;

    public IReadOnlyList<DemoPerson> People { get; }

    public IReadOnlyList<Calendar> Calendars => calendars;

    public IReadOnlyList<Event> Events => events;

    public IReadOnlyList<Publication> Publications { get; }

    /// <summary>What new events can be started from, by name.</summary>
    public IReadOnlyList<(string Name, Event Event)> Templates
    {
        get
        {
            Event First(string title) => events.First(e => e.Title == title);
            return [("Family evening", First("Family evening")), ("Drill", First("Evacuation drill"))];
        }
    }

    /// <summary>Whether an event has the harbour's picture.</summary>
    public static bool HasBanner(string title) => title is "Slip-way open days" or "Lantern walk";

    /// <summary>The paper that belongs to an event; null for none.</summary>
    public static string? PaperOf(string title) => title switch
    {
        "Slip-way open days" => "Plan of the stands",
        "Entry examinations" => "What to bring",
        _ => title.Contains("trip", StringComparison.OrdinalIgnoreCase) || title.StartsWith("Visit to", StringComparison.Ordinal) ? "Permission slip" : null,
    };

    /// <summary>Where the learning platform tells what is due in all of a teacher's courses.</summary>
    public static string FollowedAddress => "https://courses.lanternfell.example/platform/feeds/all.ics";

    /// <summary>What is due in the courses: who follows it, the lane it has, and how it is sorted into the classes.</summary>
    public (DemoPerson Person, Calendar Lane, IReadOnlyList<SortingRule> Rules) Followed
    {
        get
        {
            SortingRule Into(string title) => new(SortBy.Brackets, title, calendars.Single(c => c.Title == title).Id, DropsCode: true);
            var lane = Calendar.Apply(null, NextId(), "Due in courses", "What is due, as the learning platform has it.", "From elsewhere", Zone.Id, 9) with { IsFollowed = true };
            return (People[3], lane, [Into("Rigging 2"), Into("Navigation 2A")]);
        }
    }

    /// <summary>The group of those who teach navigation, and who is in it.</summary>
    public (string Name, IReadOnlyList<DemoPerson> People) NavigationStaff => ("Navigation staff", [People[3], People[4]]);

    /// <summary>
    /// Who has which role: Ines keeps the groups, Tomas edits and Bea proposes for classes, Samir reads what the staff has.
    /// A null person is the group of navigation.
    /// </summary>
    public IReadOnlyList<(string Calendar, DemoPerson? Person, CalendarRole Role)> Shares =>
    [
        ("Harbour choir", People[2], CalendarRole.Keeper),
        ("Rowing group", People[2], CalendarRole.Keeper),
        ("School diary", People[2], CalendarRole.Proposer),
        ("Rigging 2", People[3], CalendarRole.Editor),
        ("Boatbuilding 1", People[3], CalendarRole.Editor),
        ("School diary", People[4], CalendarRole.Proposer),
        ("Rigging 2", People[4], CalendarRole.Proposer),
        ("Navigation 2A", null, CalendarRole.Editor),
        ("Navigation 2B", null, CalendarRole.Editor),
        ("Staff", People[5], CalendarRole.Reader),
    ];

    /// <summary>
    /// What waits for an answer: whose it is, the event it changes or null for a new one, the event as it shall be, and what
    /// is said to the keepers.
    /// </summary>
    public IReadOnlyList<(DemoPerson Person, Event? Before, Event Offered, string Remark)> Offers()
    {
        Calendar Named(string title) => calendars.Single(c => c.Title == title);
        var (bea, ines, friday) = (People[4], People[2], today.Next(Friday));
        Event New(string calendar, string title, string place, EventTiming timing, string description, RecurrenceRule? rule = null, params string[] alsoIn) =>
            Event.Create(NextId(), Named(calendar).Id, new EventDraft(title, place, description, timing, rule, null, EventFacts.None with { AlsoIn = [.. alsoIn.Select(a => Named(a).Id)] }), madeAt, Year.Days);

        var clinic = New("Rigging 2", "Knot clinic", "Loft 2", Span(Named("Rigging 2"), friday, "15:00", "15:45"), "For everyone whose bowline slips.", new RecurrenceRule(Frequency.Weekly, 1, WeekdaySet.Of(Friday), count: 4));
        var shanties = New("School diary", "Shanty evening", "Sail loft", Span(Named("School diary"), friday.PlusDays(6), "18:30", "20:30"), "The harbour choir sings, everybody joins in.", null, "Rigging 2");
        var carols = New("School diary", "Open rehearsal", "Chapel", Span(Named("School diary"), friday.PlusDays(5), "16:30", "18:00"), "Families may sit at the back.");
        var knots = events.Where(e => e.CalendarId == Named("Rigging 2").Id && e.Rule is null && e.Timing.Start.Date > today).OrderBy(e => e.Timing.Start).FirstOrDefault() ?? events.Last(e => e.CalendarId == Named("Rigging 2").Id && e.Rule is null);
        return
        [
            (bea, null, clinic, "Four Fridays before the test."),
            (bea, null, shanties, "The loft is free that evening."),
            (bea, knots, knots with { Place = "Old quay", Description = knots.Description + "<p>We meet at the capstan.</p>" }, "The loft floor is being oiled."),
            (ines, null, carols, ""),
        ];
    }

    private Term[] Terms => [Year.Autumn, Year.Winter, Year.Spring];

    private void MakeDiary()
    {
        var diary = AddCalendar("School diary", "Terms, closures, assemblies, open days and evenings of the whole school.", "Whole school", 1, ReachTable.Open);
        foreach (var term in Terms)
        {
            Days(diary, $"{term.Name} begins", term.First, term.First, "", "Workshops open at 7:45. New pupils meet at the slip-way bell.");
            Timed(diary, "Family evening", Year.On(term, 4, Tuesday), "18:00", "20:00", "Boathouse", "Every workshop is open. Tea in the sail loft.\nWays here: https://lanternfell.example/visit");
            Timed(diary, "Launching", Year.On(term, 9, Friday), "14:00", "16:00", "Slip 1", "The boats of this term go into the water. Families and neighbours are welcome.");
            Days(diary, "Reports go home", Year.On(term, 10, Thursday), Year.On(term, 10, Thursday), "", "");
            Timed(diary, "School council", Year.On(term, 6, Wednesday), "15:30", "16:30", "Chart room", "");
            Timed(diary, "Evacuation drill", Year.On(term, 3, Wednesday), "10:40", "11:00", "Quay", "Muster by boat class.");
        }
        Weekly(diary, "Assembly", "Great hall", [Monday], "8:20", "8:50", "The whole school. The harbour bell calls at 8:15.");
        foreach (var closure in Year.Year.Closures.Where(c => c.IsForAll))
            Days(diary, closure.Name, closure.First, closure.Last, "", "The school is shut.");

        Days(diary, "Slip-way open days", Year.On(Year.Autumn, 12, Wednesday), Year.On(Year.Autumn, 12, Wednesday).PlusDays(1), "Slip-way", "<p>Come and try it yourself, <strong>no ticket needed</strong>:</p><ul><li>steam a plank in Shed B</li><li>splice a rope in the loft</li><li>plot a course in the chart room</li></ul><p>Ways here: https://lanternfell.example/open-days</p>");
        Days(diary, "Entry examinations", Year.On(Year.Winter, 5, Tuesday), Year.On(Year.Winter, 5, Thursday), "Great hall", "Bring a pencil, a rule and dry shoes.");
        Days(diary, "Exhibition of models", Year.On(Year.Winter, 8, Monday), Year.On(Year.Winter, 8, Friday), "Sail loft", "Half models and rig models of the second year.");
        Days(diary, "Spring regatta", Year.On(Year.Spring, 7, Saturday), Year.On(Year.Spring, 7, Sunday), "Outer harbour", "Two days of racing in boats built here.");
        Days(diary, "Final examinations", Year.On(Year.Spring, 11, Monday), Year.On(Year.Spring, 11, Friday), "Workshops", "");
        Timed(diary, "Prize-giving", Year.On(Year.Spring, 13, Thursday), "17:00", "19:00", "Great hall", "");
        Timed(diary, "Lantern walk", Year.On(Year.Autumn, 10, Friday), "17:30", "19:00", "Old quay", "Bring a lantern with a real flame guard. The choir sings at the light.");
        Timed(diary, "Winter concert", Year.On(Year.Autumn, 14, Thursday), "19:00", "20:30", "Chapel", "Harbour choir and the shanty band.");
        Timed(diary, "Careers evening", Year.On(Year.Winter, 3, Thursday), "18:30", "20:30", "Great hall", "Yards, ferries and surveyors tell of their work.");
        Timed(diary, "Blessing of the boats", Year.On(Year.Spring, 3, Sunday), "11:00", "12:00", "Slip 2", "");
        Days(diary, "Summer programme", Year.Summer, Year.Summer.PlusDays(25), "Boathouse", "Courses for beginners, a week each. Places at the office.");
        Timed(diary, "Harbour race", Year.Summer.PlusDays(12), "10:00", "16:00", "Outer harbour", "");
        Days(diary, "Boathouse painting", Year.Year.Last.PlusDays(-9), Year.Year.Last.PlusDays(-5), "Boathouse", "");
        Days(diary, "Open boat week", Year.Year.First.PlusDays(9), Year.Year.First.PlusDays(13), "Slip-way", "Visitors may row a school boat.");
        Timed(diary, "New families’ tour", Year.Year.First.PlusDays(24), "16:00", "17:30", "Meet at the bell", "");

        // The year's last weeks already look at the next one.
        var next = new DemoYear(Year.Year.Last.PlusDays(1));
        Days(diary, "Open boat week", next.Year.First.PlusDays(9), next.Year.First.PlusDays(13), "Slip-way", "Visitors may row a school boat.");
        Timed(diary, "New families’ tour", next.Year.First.PlusDays(24), "16:00", "17:30", "Meet at the bell", "");
        Days(diary, "Autumn term begins", next.Autumn.First, next.Autumn.First, "", "Workshops open at 7:45. New pupils meet at the slip-way bell.");
    }

    private void MakeClasses()
    {
        Class("Boatbuilding 1", 2, ReachTable.Open, "Shed B",
            [("Planking", [Monday, Wednesday], "10:15", "11:45"), ("Tool care", [Thursday], "8:55", "9:40")],
            [("Timber order due", 3, Friday), ("Lines drawing test", 6, Tuesday), ("Visit to the saw mill", 8, Thursday), ("Steam-bending day", 10, Tuesday)]);
        Class("Boatbuilding 2", 3, ReachTable.MembersOnly, "Shed C",
            [("Framing", [Tuesday, Thursday], "10:15", "11:45"), ("Varnish shop", [Friday], "13:00", "14:30")],
            [("Half model due", 4, Wednesday), ("Fastenings test", 7, Thursday), ("Keel turning", 9, Tuesday), ("Survey practice", 12, Monday)]);
        Class("Rigging 2", 4, ReachTable.Open, "Loft 2",
            [("Splicing", [Thursday, Friday], "13:00", "14:30"), ("Blocks and tackle", [Monday], "13:00", "14:30")],
            [("Knots test", 5, Tuesday), ("Bring your fid", 2, Thursday), ("Mast stepping", 11, Wednesday), ("Wire splice due", 8, Friday)]);
        Class("Navigation 2A", 5, new ReachTable(Detail.Everything, Detail.Headlines, Detail.Headlines), "Room 4",
            [("Chart work", [Monday, Thursday], "9:00", "10:00"), ("Weather", [Wednesday], "9:00", "10:00")],
            [("Tides quiz", 4, Monday), ("Passage plan due", 9, Monday), ("Night lights walk", 10, Wednesday), ("Compass swing", 12, Thursday)]);
        Class("Navigation 2B", 6, ReachTable.MembersOnly, "Room 5",
            [("Chart work", [Tuesday, Friday], "9:00", "10:00"), ("Weather", [Wednesday], "11:00", "12:00")],
            [("Tides quiz", 4, Tuesday), ("Harbour trip: bring oilskins", 12, Wednesday), ("Passage plan due", 9, Tuesday), ("Radio licence test", 11, Friday)]);
        Class("Sailmaking 1", 7, ReachTable.MembersOnly, "Sail loft",
            [("Cutting and seaming", [Monday, Wednesday], "13:00", "15:00"), ("Repair bench", [Friday], "10:15", "11:45")],
            [("Pattern due", 3, Monday), ("Canvas order", 6, Wednesday), ("Reef points test", 9, Friday), ("Sail fitting on the quay", 12, Tuesday)]);
    }

    private void Class(
        string title, int mark, ReachTable reach, string room, (string Title, IsoDayOfWeek[] Days, string From, string To)[] lessons, (string Title, int Week, IsoDayOfWeek Day)[] dates)
    {
        var calendar = AddCalendar(title, $"Lessons, tests and things to bring for {title}.", "Classes", mark, reach);
        foreach (var lesson in lessons)
            Weekly(calendar, lesson.Title, room, lesson.Days, lesson.From, lesson.To, "");
        foreach (var term in Terms)
        {
            foreach (var date in dates)
            {
                var day = Year.On(term, date.Week, date.Day);
                if (day > term.Last)
                    continue;
                if (date.Title.Contains("test") || date.Title.Contains("quiz"))
                    Timed(calendar, date.Title, day, lessons[0].From, lessons[0].To, room, "Covers everything since the last one. Paper charts and own notes are allowed.");
                else if (date.Title.Contains("due") || date.Title.Contains("ring") || date.Title.Contains("order"))
                    Days(calendar, date.Title, day, day, "", "To be handed in at the workshop before the bell.");
                else
                    Timed(calendar, date.Title, day, "13:30", "15:45", "Quay", "Meet at the slip-way bell. Old clothes, life jackets are there.");
            }
        }
    }

    private void MakeGroups()
    {
        var choir = AddCalendar("Harbour choir", "Everyone who likes to sing, with or without notes.", "Groups", 8, ReachTable.Open);
        Weekly(choir, "Rehearsal", "Chapel", [Tuesday, Thursday], "16:30", "18:00", "Warm-up first. The tide table decides who carries the harmonium.");
        Series(choir, "Singing on the quay", Year.Summer, "19:00", "20:30", "Old quay", new RecurrenceRule(Frequency.Weekly, 1, WeekdaySet.Of(Wednesday), until: new RuleEnd(Year.Year.Last)), "");
        Series(choir, "Singing on the quay", Year.Year.First, "19:00", "20:30", "Old quay", new RecurrenceRule(Frequency.Weekly, 1, WeekdaySet.Of(Wednesday), count: 4), "");
        Timed(choir, "Carols at the light", Year.On(Year.Autumn, 15, Wednesday), "18:00", "19:00", "Lighthouse", "");
        Days(choir, "Choir weekend", Year.On(Year.Winter, 6, Saturday), Year.On(Year.Winter, 6, Sunday), "Fishermen's hall", "Bring a sleeping bag and something for the soup.");
        Timed(choir, "Concert with the ferry crew", Year.On(Year.Spring, 9, Saturday), "19:30", "21:00", "Ferry deck", "");

        var rowing = AddCalendar("Rowing group", "Early on the water, all year round unless there is ice.", "Groups", 9, ReachTable.Open);
        Series(rowing, "Early row", Year.Year.First, "7:00", "8:00", "Slip 1", new RecurrenceRule(Frequency.Weekly, 1, WeekdaySet.Of(Monday, Wednesday)), "Boats leave on the minute. Off when the ice flag is up.");
        Series(rowing, "Long row", Year.Year.First, "9:00", "11:30", "Slip 1", new RecurrenceRule(Frequency.Weekly, 2, WeekdaySet.Of(Saturday)), "Every second Saturday, out to the bell buoy and back.");
        Days(rowing, "Head race", Year.On(Year.Autumn, 9, Saturday), Year.On(Year.Autumn, 9, Saturday), "Narrows", "");
        Timed(rowing, "Boat washing", Year.On(Year.Autumn, 13, Saturday), "10:00", "12:00", "Boathouse", "");
        Days(rowing, "Training camp", Year.On(Year.Spring, 2, Friday), Year.On(Year.Spring, 2, Sunday), "Long Pond", "");
        Timed(rowing, "Night row", Year.On(Year.Spring, 12, Friday), "21:30", "0:30", "Slip 1", "Lights on every boat. Back after midnight.");
    }

    private void MakeRooms()
    {
        var boathouse = AddCalendar("Boathouse bookings", "Who has the boathouse.", "Rooms and boats", 10, ReachTable.MembersOnly);
        var loft = AddCalendar("Loft bookings", "Who has a loft.", "Rooms and boats", 11, ReachTable.MembersOnly);
        Series(boathouse, "Sea rescue practice", Year.Year.First, "18:30", "20:30", "Boathouse", new RecurrenceRule(Frequency.Weekly, 2, WeekdaySet.Of(Thursday)), "");
        Series(loft, "Sail repair evening", Year.Year.First, "18:00", "20:00", "Loft 1", new RecurrenceRule(Frequency.Weekly, 1, WeekdaySet.Of(Monday)), "");
        foreach (var term in Terms)
        {
            Timed(boathouse, "Hull moving", Year.On(term, 5, Wednesday), "8:00", "12:00", "Boathouse", "The big doors stay open: dress warmly.");
            Timed(boathouse, "Model tank", Year.On(term, 12, Tuesday), "13:00", "15:00", "Boathouse", "");
            Timed(loft, "Canvas delivery", Year.On(term, 2, Tuesday), "7:30", "9:00", "Loft 1", "");
            Days(loft, "Floor oiling", Year.On(term, 12, Thursday), Year.On(term, 12, Thursday).PlusDays(1), "Loft 2", "No shoes, no dust.");
        }
    }

    private void MakeStaff()
    {
        var staff = AddCalendar("Staff", "Duties and meetings. For members of the school.", "Whole school", 12, ReachTable.MembersOnly);
        Series(staff, "Quay duty", Year.Autumn.First, "7:40", "8:15", "Quay", Daily, "Rota on the board in the tea room.", SchoolDayRule.Of(SchoolDayChoice.OnSchoolDays, ClosureChoice.LeaveOut, [], []));
        Series(staff, "Fire pump test", Year.Year.First, "12:15", "12:45", "Slip 2", new RecurrenceRule(Frequency.Monthly, by: new ByParts { NumberedDays = [new NumberedDay(-1, Friday)] }), "The last Friday of the month, or the next day the school is open.", SchoolDayRule.Of(SchoolDayChoice.AnyDay, ClosureChoice.NextOpenDay, [], []));
        Series(staff, "Tool store count", Year.Autumn.First, "15:00", "15:30", "Shed B", Daily, "On every Day 3 of the rotation.", SchoolDayRule.Of(SchoolDayChoice.OnSchoolDays, ClosureChoice.LeaveOut, [3], []));
        Weekly(staff, "Staff meeting", "Chart room", [Wednesday], "15:50", "17:00", "");
        foreach (var term in Terms)
        {
            Timed(staff, "Marking day", Year.On(term, 9, Thursday), "8:30", "16:00", "Chart room", "");
            Timed(staff, "First-aid course", Year.On(term, 12, Monday), "15:45", "17:45", "Great hall", "");
        }
    }

    private RecurrenceRule Daily => new(Frequency.Daily, until: new RuleEnd(Year.Spring.Last));

    private Calendar AddCalendar(string title, string description, string group, int mark, ReachTable reach)
    {
        var id = title == "Boatbuilding 1" ? workshop : NextId();
        var calendar = Calendar.Apply(null, id, title, description, group, Zone.Id, mark) with { Reach = reach };
        calendars.Add(calendar);
        return calendar;
    }

    /// <summary>Every week of the terms, closures left out.</summary>
    private void Weekly(Calendar calendar, string title, string place, IsoDayOfWeek[] days, string from, string to, string description) => Series(
        calendar,
        title,
        Year.Autumn.First,
        from,
        to,
        place,
        new RecurrenceRule(Frequency.Weekly, 1, WeekdaySet.Of(days), until: new RuleEnd(Year.Spring.Last)),
        description,
        SchoolDayRule.Of(SchoolDayChoice.InTerm, ClosureChoice.LeaveOut, [], []));

    private void Series(Calendar calendar, string title, LocalDate first, string from, string to, string place, RecurrenceRule rule, string description, SchoolDayRule? follows = null) =>
        events.Add(Event.Create(NextId(), calendar.Id, new EventDraft(title, place, description, Span(calendar, first, from, to), rule, follows, lists.FactsOf(title, true)), madeAt, Year.Days));

    private void Timed(Calendar calendar, string title, LocalDate day, string from, string to, string place, string description) =>
        events.Add(Event.Create(NextId(), calendar.Id, new EventDraft(title, place, description, Span(calendar, day, from, to), null, null, lists.FactsOf(title, false)), madeAt));

    private void Days(Calendar calendar, string title, LocalDate first, LocalDate last, string place, string description) =>
        events.Add(Event.Create(NextId(), calendar.Id, new EventDraft(title, place, description, EventTiming.AllDay(first, last < first ? first : last), null, null, lists.FactsOf(title, false)), madeAt));

    private static EventTiming Span(Calendar calendar, LocalDate day, string from, string to)
    {
        var start = day.At(Clock(from));
        var end = day.At(Clock(to));
        return EventTiming.Zoned(start, end < start ? end.PlusDays(1) : end, calendar.Zone);
    }

    private static LocalTime Clock(string text)
    {
        var parts = text.Split(':');
        return new LocalTime(int.Parse(parts[0]), int.Parse(parts[1]));
    }

    private Publication Publish(string key, string title, string introduction, OutletView view, params string[] titles) =>
        Publish(key, title, introduction, view, s => s, titles);

    private Publication Publish(string key, string title, string introduction, OutletView view, Func<PublicationSettings, PublicationSettings> decide, params string[] titles) =>
        Publication.New(
            NextId(),
            key,
            decide(new PublicationSettings { Title = title, Introduction = introduction, CalendarIds = [.. titles.Select(t => calendars.Single(c => c.Title == t).Id)], FirstView = view }),
            madeAt);

    /// <summary>An identity in the form of UUID version 7 (RFC 9562, 5.7) that counts instead of drawing lots.</summary>
    private Guid NextId()
    {
        Span<byte> bytes = stackalloc byte[16];
        BinaryPrimitives.WriteInt64BigEndian(bytes, madeAt.ToUnixTimeMilliseconds() << 16);
        bytes[6] = 0x70;
        bytes[8] = 0x80;
        BinaryPrimitives.WriteInt32BigEndian(bytes[12..], ++ids);
        return new Guid(bytes, bigEndian: true);
    }
}
