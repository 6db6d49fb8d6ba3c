using Microsoft.AspNetCore.Identity;
using NodaTime;
using Valtro.Demo;
using Valtro.Store;

namespace Valtro.Server.Demo;

/// <summary>Fills an empty database with the demo school.</summary>
internal sealed class DemoFiller(
    Schools schools, SchoolYears years, Store.Lists lists, People people, Store.Calendars calendars, Store.Events events, Store.Publications publications, IPasswordHasher<Person> hasher, ServerSettings settings, IClock clock)
{
    public async Task FillWhenEmptyAsync()
    {
        if (await schools.AnyAsync())
            return;
        var demo = new DemoSchool(clock.GetCurrentInstant().InZone(DemoSchool.Zone).Date);
        var now = demo.Calendars.Count > 0 ? demo.Events[0].CreatedAt : clock.GetCurrentInstant();
        var author = new Author(demo.Id, null, now);
        await schools.AddAsync(new School(demo.Id, DemoSchool.Name, DemoSchool.ShortName, DemoSchool.Zone, "en"), now);
        await years.SaveAsync(null, demo.Year.Year, author);
        await lists.SaveAsync(demo.Lists with { Version = 2, MapPattern = settings.StandIns.Length > 0 ? settings.StandIns + "/map?q={address}" : "" }, author);
        foreach (var person in demo.People)
        {
            var hash = hasher.HashPassword(null!, DemoSchool.Password);
            await people.AddAsync(new Person(person.Id, demo.Id, person.Name, person.Email, hash), now);
        }
        foreach (var calendar in demo.Calendars)
            await calendars.SaveAsync(null, calendar, "create", author);
        await events.AddAllAsync(demo.Id, demo.Events);
        foreach (var publication in demo.Publications)
            await publications.SaveAsync(null, publication, "create", author);
    }
}
