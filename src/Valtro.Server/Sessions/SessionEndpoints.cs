using System.Security.Claims;
using Microsoft.AspNetCore.Identity;
using NodaTime;
using Valtro.Core.People;
using Valtro.Server.Accounts;
using Valtro.Server.Api;
using Valtro.Server.Audit;
using Valtro.Store;

namespace Valtro.Server.Sessions;

/// <summary>A code is needed only by who has a second factor.</summary>
internal sealed record SignInRequest(string Email, string Password, string? Code = null);

internal sealed record PersonDto(Guid Id, string Name, string Email, SchoolRole Role);

internal sealed record SchoolDto(Guid Id, string Name, string ShortName, string Zone, string Language, LocalDate Today);

internal sealed record SessionDto(PersonDto Person, SchoolDto School, PersonSettingsDto Settings);

/// <param name="HasSchool">Whether there is a school; without one the first run is still to come.</param>
/// <param name="IsDemo">Whether it is there to be tried.</param>
internal sealed record InstallationDto(bool HasSchool, bool IsDemo);

internal static class SessionEndpoints
{
    // Hashed once, so that an unknown name takes as long as a wrong password.
    private static readonly string NobodysHash = new PasswordHasher<Person>().HashPassword(null!, Guid.NewGuid().ToString());

    public static void MapSessions(this IEndpointRouteBuilder api)
    {
        api.MapGet("/installation", async (Schools schools, ServerSettings settings) => new InstallationDto(await schools.AnyAsync(), settings.FillDemo))
            .AllowAnonymous();

        api.MapGet("/session", async (ClaimsPrincipal user, Caller caller, OwnSettings own, IClock clock) =>
        {
            var settings = await own.GetAsync();
            var school = await caller.SchoolAsync();
            return new SessionDto(
                new PersonDto(user.PersonId(), user.FindFirstValue(PersonClaims.Name)!, user.FindFirstValue(PersonClaims.Email)!, (await caller.AccessAsync()).School),
                new SchoolDto(school.Id, school.Name, school.ShortName, school.Zone.Id, school.Language, clock.GetCurrentInstant().InZone(await own.ZoneAsync()).Date),
                settings);
        });

        api.MapPost("/session", SignInAsync).AllowAnonymous();

        api.MapDelete("/session", async (HttpContext http, Store.People people) =>
        {
            if (TokenHashOf(http) is { } hash)
                await people.RemoveSessionAsync(hash);
            http.Response.Cookies.Delete(SessionAuthentication.CookieName);
            return TypedResults.NoContent();
        });
    }

    private static async Task<IResult> SignInAsync(
        SignInRequest request, HttpContext http, Store.People people, Store.Accounts accounts, SecondFactors factors, AuditLog audit, IPasswordHasher<Person> hasher, SignInThrottle throttle, IClock clock)
    {
        var address = http.Address();
        var now = clock.GetCurrentInstant();
        var email = request.Email ?? "";
        var wait = throttle.Wait(address, email);
        if (wait > Duration.Zero)
            throw new TooOftenException(wait);
        var person = email.Length is > 0 and <= 320 ? await people.FindByEmailAsync(email.Trim()) : null;
        var verdict = hasher.VerifyHashedPassword(person!, person?.PasswordHash ?? NobodysHash, request.Password ?? "");
        if (person is null || verdict == PasswordVerificationResult.Failed)
        {
            throttle.Failed(address, email);
            if (person is not null)
                await audit.AddAsync(person.SchoolId, person.Id, "sign-in failed", null, address, now);
            return Problems.Of(401, "sign_in_failed", "E-mail and password do not fit together. Check both and try again.");
        }
        if (await accounts.FactorAsync(person.SchoolId, person.Id) is { IsOn: true } factor)
        {
            if (string.IsNullOrWhiteSpace(request.Code))
                return Problems.Of(401, "code_needed", "Type the code your authenticator shows, or a recovery code.", "code");
            if (!await factors.TakeAsync(person.SchoolId, person.Id, factor, request.Code))
            {
                throttle.Failed(address, email);
                await audit.AddAsync(person.SchoolId, person.Id, "sign-in failed", null, address, now);
                return Problems.Of(401, "code_wrong", "This code does not fit. Type the one that is shown now.", "code");
            }
        }
        throttle.Succeeded(address, email);
        await BeginAsync(http, people, person, now);
        await audit.AddAsync(person.SchoolId, person.Id, "sign-in", null, address, now);
        return TypedResults.NoContent();
    }

    /// <summary>What the session of a request is known by; null when there is none.</summary>
    internal static byte[]? TokenHashOf(HttpContext http) =>
        http.Request.Cookies.TryGetValue(SessionAuthentication.CookieName, out var secret) ? Secrets.HashOf(secret) : null;

    /// <summary>Begins a session; one that was there before ends, so that nobody's secret outlives a sign-in.</summary>
    internal static async Task BeginAsync(HttpContext http, Store.People people, Person person, Instant now)
    {
        if (TokenHashOf(http) is { } old)
            await people.RemoveSessionAsync(old);
        var (secret, hash) = Secrets.New();
        await people.AddSessionAsync(person, hash, now, now + SessionAuthentication.Lifetime);
        http.Response.Cookies.Append(SessionAuthentication.CookieName, secret, new CookieOptions
        {
            HttpOnly = true,
            SameSite = SameSiteMode.Lax,
            Secure = http.Request.IsHttps,
            MaxAge = SessionAuthentication.Lifetime.ToTimeSpan(),
            Path = "/",
        });
    }
}
