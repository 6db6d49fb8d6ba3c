using Dapper;
using Valtro.Core.Events;
using Valtro.Core.People;
using Valtro.Core.SchoolYears;
using Valtro.Core.Time;

namespace Valtro.Store;

/// <summary>A school as a person finds it: what nearly every request has to know, read at once.</summary>
/// <param name="School">The school.</param>
/// <param name="Access">What the person may do; null when they are not, or no longer, of it.</param>
/// <param name="Settings">How they want to see things, as it was kept; null when they never set anything.</param>
/// <param name="Calendars">Its calendars that are not in the bin, in order.</param>
/// <param name="Binned">Its calendars in the bin.</param>
/// <param name="Lists">Its categories, places and limits.</param>
/// <param name="Days">Its days.</param>
public sealed record SchoolState(
    School School, Access? Access, string? Settings, IReadOnlyDictionary<Guid, Calendar> Calendars, IReadOnlySet<Guid> Binned, SchoolLists Lists, SchoolDays Days);

/// <summary>Reads schools as persons find them.</summary>
public sealed class SchoolStates(Connections db)
{
    /// <summary>Reads all of it in one go.</summary>
    public async Task<SchoolState> GetAsync(Guid schoolId, Guid personId, CancellationToken cancellation = default)
    {
        await using var connection = await db.OpenAsync(schoolId, cancellation);
        using var result = await connection.QueryMultipleAsync(new CommandDefinition(
            $"""
            select id, name, short_name, zone, language from school where id = @SchoolId;
            select settings::text from person where school_id = @SchoolId and id = @PersonId;
            {SchoolYears.Selected}
            {Calendars.SelectedAll}
            {Lists.Selected}
            {Roles.Selected}
            """,
            new { SchoolId = schoolId, PersonId = personId },
            cancellationToken: cancellation));
        var (id, name, shortName, zone, language) = await result.ReadSingleAsync<(Guid, string, string, string, string)>();
        var settings = await result.ReadSingleOrDefaultAsync<string?>();
        var years = await SchoolYears.ReadAsync(result);
        var (calendars, binned) = await Calendars.ReadAsync(result);
        var lists = await Lists.ReadAsync(result);
        var access = await Roles.ReadAsync(result);
        return new SchoolState(new School(id, name, shortName, Zones.Get(zone), language), access, settings, calendars, binned, lists, years.Days);
    }
}
