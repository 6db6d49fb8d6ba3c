using NodaTime;
using Valtro.Core.LineEntry;
using Valtro.Core.SchoolYears;
using Valtro.Server.Accounts;
using Valtro.Server.Api;
using Valtro.Server.Sessions;

namespace Valtro.Server.Events;

/// <summary>What was typed into a field for days or times, as it was understood; null for what it is not.</summary>
internal sealed record TypedDto(LocalDate? Day, string? Clock, TypedSpanDto? Span);

internal sealed record TypedSpanDto(string Name, LocalDate First, LocalDate Last);

internal static class TypedEndpoints
{
    public static void MapTyped(this IEndpointRouteBuilder api) =>
        api.MapGet("/typed", async (string? text, DayParameter near, string? language, Caller caller, OwnSettings own) =>
        {
            var days = await caller.DaysAsync();
            var context = new DayContext(near, await caller.TodayAsync())
            {
                MonthFirst = await own.IsMonthFirstAsync(language),
                WeekOf = number => WeekOf(days, near, number),
                Terms = Terms(days),
            };
            var typed = text ?? "";
            return new TypedDto(
                DayReader.Read(typed, context),
                DayReader.ReadClock(typed, bySense: true)?.ToString("HH':'mm", System.Globalization.CultureInfo.InvariantCulture),
                DayReader.ReadSpan(typed, context) is { } span ? new TypedSpanDto(span.Name, span.First, span.Last) : null);
        });

    /// <summary>The terms of every school year.</summary>
    public static IReadOnlyList<(LocalDate First, LocalDate Last)> Terms(SchoolDays days) => [.. days.Years.SelectMany(y => y.Terms).Select(t => (t.First, t.Last))];

    /// <summary>The Monday of a teaching week, of the term that is on, or of the last one that was.</summary>
    public static LocalDate? WeekOf(SchoolDays days, LocalDate near, int number)
    {
        var year = days.Year(near);
        var term = year.Terms.LastOrDefault(t => t.First <= near) ?? year.Terms.FirstOrDefault();
        if (term is null)
            return null;
        for (var date = term.First; date <= term.Last; date = date.PlusDays(1))
        {
            if (days.Day(date).TeachingWeek == number)
                return date.PlusDays(1).Previous(IsoDayOfWeek.Monday);
        }
        return null;
    }
}
