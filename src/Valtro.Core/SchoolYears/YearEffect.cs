using NodaTime;
using Valtro.Core.Events;

namespace Valtro.Core.SchoolYears;

/// <summary>What a change of a school year does to a series that follows it; for the school's administrators.</summary>
/// <param name="EventId">The series.</param>
/// <param name="CalendarId">Its calendar.</param>
/// <param name="Title">What it is.</param>
/// <param name="Come">Local starts that come.</param>
/// <param name="Gone">Local starts that go.</param>
public sealed record YearEffect(Guid EventId, Guid CalendarId, string Title, IReadOnlyList<LocalDateTime> Come, IReadOnlyList<LocalDateTime> Gone)
{
    /// <summary>Compares the dates of a series before and after.</summary>
    public static YearEffect Of(Event before, Event after, SchoolDays days)
    {
        // Beyond the years that are kept nothing comes or goes; a year that shrinks had dates a little beyond.
        var from = LocalDateTime.Min(before.Timing.Start, after.Timing.Start).Date.PlusDays(-SchoolDayDates.MaxMove);
        var to = (days.KnownUntil ?? from).PlusDays(SchoolYear.MaxDays);
        var was = before.Dates.Between(from, to).ToHashSet();
        var now = after.Dates.Between(from, to).ToHashSet();
        return new YearEffect(before.Id, before.CalendarId, before.Title, [.. now.Except(was).Order()], [.. was.Except(now).Order()]);
    }
}
