using Microsoft.AspNetCore.Identity;
using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.People;
using Valtro.Core.Time;
using Valtro.Server.Accounts;
using Valtro.Server.People;
using Valtro.Server.Sessions;
using Valtro.Store;

namespace Valtro.Server.FirstRun;

/// <summary>The first school and its first administrator.</summary>
internal sealed record FirstRunInput(string? Code, string? School, string? ShortName, string? Zone, string? Language, string? Name, string? Email, string? Password);

internal static class FirstRunEndpoints
{
    public static void MapFirstRun(this IEndpointRouteBuilder api) =>
        api.MapPost("/first-run", async (FirstRunInput input, HttpContext http, FirstRunCode code, Schools schools, Store.People people, IPasswordHasher<Person> hasher, IClock clock) =>
        {
            if (!code.Fits(input.Code))
                throw new InvalidInputException("first_run_code", "code", "This code does not fit. The server printed it when it started; start it again for a new one.");
            var zone = Zones.Get(input.Zone ?? "");
            var school = new School(
                Guid.CreateVersion7(), Texts.Title(input.School, "school", 200), Texts.Title(input.ShortName, "shortName", 40), zone, input.Language is "fr" ? "fr" : "en");
            var (name, email) = (Texts.Title(input.Name, "name", 100), PeopleEndpoints.Email(input.Email));
            var password = Passwords.Checked(input.Password, school.Name, name, email);
            var person = new Person(Guid.CreateVersion7(), school.Id, name, email, hasher.HashPassword(null!, password), SchoolRole.Administrator);
            var now = clock.GetCurrentInstant();
            if (!await schools.AddFirstAsync(school, person, now))
                throw new InvalidInputException("first_run_over", "code", "There is a school already. Ask one of its administrators to invite you.");
            code.End();
            await SessionEndpoints.BeginAsync(http, people, person, now);
            return TypedResults.NoContent();
        }).AllowAnonymous();
}
