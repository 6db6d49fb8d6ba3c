using Valtro.Core;
using Valtro.Core.ICalendar;
using Valtro.Core.People;
using Valtro.Core.Views;
using Valtro.Store;

namespace Valtro.Cli;

/// <summary>Takes a school's calendars out, each as a file that can be brought in again.</summary>
internal static class ExportCommand
{
    public static async Task RunAsync(string folder, Options options, TextWriter output)
    {
        await using var db = Database.Connect(options.Database());
        var schools = await new Schools(db).ListAsync();
        var school = schools.Count == 1 && options.Get("school") is null
            ? schools[0]
            : schools.FirstOrDefault(s => s.ShortName == options.Need("school")) ?? throw new InvalidInputException("no_such_school", "school", "There is no school with this short name.");
        Directory.CreateDirectory(folder);
        var calendars = (await new Calendars(db).ListAsync(school.Id)).ToDictionary(c => c.Id);
        var lists = await new Lists(db).GetAsync(school.Id);
        var eyes = Eyes.Of(new Access(SchoolRole.Administrator, new Dictionary<Guid, CalendarRole>()), calendars, lists, Guid.Empty);
        var names = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        foreach (var calendar in calendars.Values)
        {
            var events = eyes.View(await new Events(db).OfCalendarsAsync(school.Id, [calendar.Id])).ToList();
            var safe = string.Concat(calendar.Title.Select(c => char.IsLetterOrDigit(c) || c is ' ' or '-' or '_' ? c : '-')).Trim();
            var name = safe;
            for (var i = 2; !names.Add(name); i++)
                name = $"{safe} {i}";
            var file = Path.Combine(folder, name + ".ics");
            // Under its name only when it is whole.
            await File.WriteAllBytesAsync(file + ".part", FeedWriter.WriteKept(calendar.Title, calendar.Description, calendar.Zone, events));
            File.Move(file + ".part", file, overwrite: true);
            output.WriteLine($"{name}.ics: {events.Count}");
        }
    }
}
