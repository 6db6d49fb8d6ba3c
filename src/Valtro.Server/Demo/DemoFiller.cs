using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using Microsoft.AspNetCore.Http.Json;
using Microsoft.AspNetCore.Identity;
using Microsoft.Extensions.Options;
using NodaTime;
using Valtro.Core.Commands;
using Valtro.Core.Events;
using Valtro.Core.Sources;
using Valtro.Demo;
using Valtro.Server.Commands;
using Valtro.Server.Events;
using Valtro.Server.Files;
using Valtro.Store;

namespace Valtro.Server.Demo;

/// <summary>Fills an empty database with the demo school.</summary>
internal sealed class DemoFiller(
    Connections db, Schools schools, Store.Lists lists, Store.People people, Groups groups, Roles roles, Store.Calendars calendars, Store.Publications publications, Store.Contents contents, Store.Templates templates, SourceIntake sourceIntake, IPasswordHasher<Person> hasher, ServerSettings settings, IOptions<JsonOptions> json, IClock clock)
{
    public async Task FillWhenEmptyAsync()
    {
        if (await schools.AnyAsync())
            return;
        var demo = new DemoSchool(clock.GetCurrentInstant().InZone(DemoSchool.Zone).Date);
        var now = demo.Calendars.Count > 0 ? demo.Events[0].CreatedAt : clock.GetCurrentInstant();
        var author = new Author(demo.Id, null, now);
        await schools.AddAsync(new School(demo.Id, DemoSchool.Name, DemoSchool.ShortName, DemoSchool.Zone, "en"), now);
        await CommandHandler.KeepYearAsync(db, author, demo.Year.Year);
        await lists.SaveAsync(demo.Lists with { Version = 2, MapPattern = settings.StandIns.Length > 0 ? settings.StandIns + "/map?q={address}" : "" }, author);
        foreach (var person in demo.People)
        {
            var hash = hasher.HashPassword(null!, DemoSchool.Password);
            await people.AddAsync(new Person(person.Id, demo.Id, person.Name, person.Email, hash, person.Role), now);
        }
        foreach (var calendar in demo.Calendars)
            await calendars.SaveAsync(null, calendar, "create", author);
        var (groupName, inGroup) = demo.NavigationStaff;
        var group = await groups.AddAsync(groupName, [.. inGroup.Select(p => p.Id)], author);
        foreach (var (title, person, role) in demo.Shares)
            await roles.SetAsync(demo.Calendars.Single(c => c.Title == title).Id, person?.Id, person is null ? group : null, role, author);
        await CommandHandler.FillAsync(db, author, [.. await Task.WhenAll(demo.Events.Select(e => WithFilesAsync(e, author)))]);
        foreach (var publication in demo.Publications)
            await publications.SaveAsync(null, publication, "create", author);
        foreach (var (person, before, offered, remark) in demo.Offers())
        {
            // As the one who offers it would say it.
            var draft = new EventDraft(offered.Title, offered.Place, offered.Description, offered.Timing, offered.Rule, offered.Follows, offered.Facts);
            Command command = before is null
                ? new OfferEvent(offered.Id, offered.CalendarId, draft, remark)
                : new OfferChange(new EditEvent(before.Id, null, new SeriesEdit(EditScope.EveryDate, before.Timing.Start, draft, offered.CalendarId), new Dictionary<LocalDateTime, MisfitChoice>()), remark);
            await CommandHandler.GiveAsync(db, new Author(demo.Id, person.Id, clock.GetCurrentInstant()), before is null ? CommandNeeds.Nothing : new CommandNeeds([before.Id], [], before.Id), command);
        }
        // What is due in the courses of the learning platform, sorted into the classes; read with the first round of readings.
        if (settings.StandIns.Length > 0)
        {
            var (teacher, lane, rules) = demo.Followed;
            await sourceIntake.FollowAsync(
                new Author(demo.Id, teacher.Id, clock.GetCurrentInstant()),
                lane,
                new Source { Id = Guid.CreateVersion7(), CalendarId = lane.Id, PersonId = teacher.Id, Address = DemoSchool.FollowedAddress, PastDays = 30, AheadDays = 400, Sorting = [.. rules], NextAt = clock.GetCurrentInstant() });
        }
        foreach (var (name, e) in demo.Templates)
            await templates.SaveAsync(new StoredTemplate(Guid.CreateVersion7(), name, JsonSerializer.Serialize(TemplateOf(e), json.Value.SerializerOptions)), e.CalendarId, e.Facts, author);
    }

    private static EventInput TemplateOf(Event e) =>
        new(e.CalendarId, e.Title, e.Place, e.Description, TimingDto.Of(e.Timing), null, null, null, FactsDto.Of(e.Facts));

    /// <summary>An identity that is the same in every filling.</summary>
    private static Guid IdOf(Event e, string what) => new(SHA256.HashData(Encoding.UTF8.GetBytes($"{e.Id} {what}")).AsSpan(0, 16));

    /// <summary>What the demo names as files or pictures gets its contents.</summary>
    private async Task<Event> WithFilesAsync(Event e, Author author)
    {
        if (DemoSchool.HasBanner(e.Title))
        {
            var (large, small) = await Pictures.BannerAsync(new MemoryStream(DemoPaper.Harbour()), new Crop(0, 0, 1, 1));
            var id = IdOf(e, "picture");
            await contents.AddAsync(new StoredContent(id, null, Pictures.MediaType, large.Length), author, new MemoryStream(large), new MemoryStream(small));
            e = e with { Facts = e.Facts with { Picture = new EventPicture(id, "Boats on the slip with the lighthouse behind") } };
        }
        if (DemoSchool.PaperOf(e.Title) is { } name)
        {
            var paper = DemoPaper.Pdf(name, e.Title);
            var id = IdOf(e, "paper");
            await contents.AddAsync(new StoredContent(id, null, "application/pdf", paper.Length), author, new MemoryStream(paper));
            e = e with { Facts = e.Facts with { Files = [new EventFile(id, id, name + ".pdf", "application/pdf", paper.Length)] } };
        }
        return e;
    }
}
