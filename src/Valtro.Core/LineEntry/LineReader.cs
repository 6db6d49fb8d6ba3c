using System.Collections.Immutable;
using NodaTime;
using Valtro.Core.Events;

namespace Valtro.Core.LineEntry;

/// <summary>What a part of a line was taken for.</summary>
public enum LinePartKind
{
    /// <summary>The title: all that is nothing else.</summary>
    Title,

    /// <summary>The time of day, or that it is all day.</summary>
    Time,

    /// <summary>The place.</summary>
    Place,

    /// <summary>How it repeats.</summary>
    Repeat,

    /// <summary>How the repeat ends.</summary>
    End,

    /// <summary>The day or days.</summary>
    Date,

    /// <summary>How long it is.</summary>
    Length,

    /// <summary>A tag.</summary>
    Tag,

    /// <summary>The category.</summary>
    Category,

    /// <summary>Another calendar it stands in.</summary>
    Calendar,
}

/// <summary>Why a part of a line is in doubt.</summary>
public enum LineDoubtKind
{
    /// <summary>It may be the morning's or the evening's.</summary>
    HalfOfDay,

    /// <summary>It was read, and may as well be part of the title.</summary>
    MayBeTitle,

    /// <summary>It was left in the title, and may as well say when.</summary>
    MayBeWhen,

    /// <summary>The weekday and the date contradict each other.</summary>
    WeekdayDisagrees,

    /// <summary>It may be the year that just was.</summary>
    WhichYear,

    /// <summary>"Next Friday" may be this week's.</summary>
    WhichWeek,

    /// <summary>It may be a day of the month, and as well a time: Fri 11.</summary>
    DayOrTime,

    /// <summary>It may be each of the days at that time, or from the first until the last.</summary>
    EachDay,

    /// <summary>It may be these days once, or all of their kind.</summary>
    OnceOrEvery,

    /// <summary>"Every second Friday" is every other one, or the second of each month.</summary>
    EveryOther,

    /// <summary>More than one time or day stands in the line.</summary>
    Several,

    /// <summary>It says something of when that a line cannot take; it was left in the title.</summary>
    LeftInTitle,

    /// <summary>"Until June" may leave June out.</summary>
    UntilWhen,

    /// <summary>The line seems to be in a language that is not read; all of it is kept as the title.</summary>
    OtherLanguage,
}

/// <summary>Something else that a part in doubt may be.</summary>
/// <param name="Text">How it is written so that it is taken for that and nothing else; null for part of the title.</param>
public sealed record LineRival(string? Text);

/// <summary>A part of a line that had a serious second reading.</summary>
/// <param name="Kind">Why.</param>
/// <param name="Start">Index of its first character.</param>
/// <param name="Length">How many characters.</param>
/// <param name="Rivals">What else it may be; empty where that is for the person to say.</param>
public sealed record LineDoubt(LineDoubtKind Kind, int Start, int Length, ImmutableArray<LineRival> Rivals)
{
    /// <summary>Whether the person can be asked once for all: what was chosen holds wherever the part is written so.</summary>
    public bool CanBeKept { get; init; }

    /// <summary>How it is written so that it is taken as it was and nothing else; null where that cannot be said.</summary>
    public string? AsRead { get; init; }
}

/// <summary>Why a line cannot be taken as it stands.</summary>
/// <param name="Code">Stable code of the error.</param>
/// <param name="Message">A sentence for a person.</param>
/// <param name="Start">Index of the first character that it is about.</param>
/// <param name="Length">How many characters.</param>
public sealed record LineProblem(string Code, string Message, int Start, int Length);

/// <summary>Something of the school's that a line can name.</summary>
/// <param name="Id">Identity.</param>
/// <param name="Name">What people call it.</param>
public readonly record struct LineName(Guid Id, string Name);

/// <summary>A part of a line, by its position in the text.</summary>
/// <param name="Kind">What it was taken for.</param>
/// <param name="Start">Index of its first character.</param>
/// <param name="Length">How many characters.</param>
public readonly record struct LinePart(LinePartKind Kind, int Start, int Length);

/// <summary>Where and by whom a line is typed.</summary>
/// <param name="Day">The day it is typed on.</param>
/// <param name="Zone">The calendar's zone.</param>
/// <param name="Language">The person's language, such as "en".</param>
/// <param name="CycleLength">Days in the school's rotation; 0 when it has none, and "day 3" is no repeat then.</param>
public sealed record LineContext(LocalDate Day, DateTimeZone Zone, string Language, int CycleLength = 0)
{
    /// <summary>Today, for "tomorrow" and "next week"; the day it is typed on when nobody says.</summary>
    public LocalDate Today { get; init; } = Day;

    /// <summary>Whether "5/12" is the fifth month.</summary>
    public bool MonthFirst { get; init; }

    /// <summary>The categories a line can name.</summary>
    public IReadOnlyList<LineName> Categories { get; init; } = [];

    /// <summary>The calendars a line can name.</summary>
    public IReadOnlyList<LineName> Calendars { get; init; } = [];

    /// <summary>The school's terms.</summary>
    public IReadOnlyList<(LocalDate First, LocalDate Last)> Terms { get; init; } = [];

    /// <summary>The Monday of a teaching week by its number; null where weeks are not counted so.</summary>
    public Func<int, LocalDate?> WeekOf { get; init; } = _ => null;

    /// <summary>Whether the school keeps closures: what repeats then leaves them out, unless the line says otherwise.</summary>
    public bool LeavesOutClosures { get; init; }

    /// <summary>
    /// What the person said that a part means when it was in doubt, by the part's text without capitals and accents: how it is
    /// written so that it is clear, or nothing where it is title.
    /// </summary>
    public IReadOnlyDictionary<string, string> Kept { get; init; } = ImmutableDictionary<string, string>.Empty;

    /// <summary>Whether it is a field for one thing: a number of two digits is a year there, and the nearest date is meant.</summary>
    internal bool IsField { get; init; }
}

/// <summary>A line as it was understood.</summary>
/// <param name="Draft">The event it makes; the start already in step with the repeat.</param>
/// <param name="Parts">The parts, in the order of the text; every character that is no blank belongs to one.</param>
public sealed record LineReading(EventDraft Draft, ImmutableArray<LinePart> Parts)
{
    /// <summary>What it makes beside the first event, where it names several times.</summary>
    public ImmutableArray<EventDraft> More { get; init; } = [];

    /// <summary>The parts that had a serious second reading, in the order of the text.</summary>
    public ImmutableArray<LineDoubt> Doubts { get; init; } = [];

    /// <summary>Why it cannot be taken as it stands; null when it can.</summary>
    public LineProblem? Problem { get; init; }
}

/// <summary>
/// Reads one line of text as an event: <c>Rigging test 9:30-11 @Loft 2 every tue until 12 dec</c>. Whatever is not understood is
/// the title, so nothing typed is ever lost; what could as well be read otherwise is told as a doubt.
/// </summary>
public static class LineReader
{
    /// <summary>The longest line read.</summary>
    public const int MaxLength = 500;

    /// <summary>How long a timed event is when only its start was typed.</summary>
    public static readonly Period DefaultLength = Period.FromHours(1);

    /// <summary>Reads a line. It never throws: what cannot be taken is told in <see cref="LineReading.Problem"/>.</summary>
    public static LineReading Read(string text, LineContext context)
    {
        if (text.Length <= MaxLength)
            return new LineGrammar(text, context, LineWords.Speaking(context.Language)).Read();
        return new LineReading(new EventDraft(text, "", "", Time.EventTiming.AllDay(context.Day, context.Day), null, null, EventFacts.None), [new LinePart(LinePartKind.Title, 0, text.Length)])
        {
            Problem = new LineProblem("text_too_long", $"The line has {text.Length} characters; {MaxLength} fit.", 0, text.Length),
        };
    }

    /// <summary>How the text of a part is looked up in <see cref="LineContext.Kept"/>.</summary>
    public static string KeyOf(string part) => string.Join(' ', LineTokens.Plain(part).Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
}
