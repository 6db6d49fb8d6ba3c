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
/// <param name="IsSignedIn">Whether the one who asks has a session: so the interface knows without being refused.</param>
internal sealed record InstallationDto(bool HasSchool, bool IsDemo, bool IsSignedIn);

/// <summary>Whoever signs in under a name that is not known: hashed once as everybody else, so that it takes as long as a wrong password.</summary>
internal sealed class Nobody(IPasswordHasher<Person> hasher)
{
    public string PasswordHash { get; } = hasher.HashPassword(null!, Guid.NewGuid().ToString());
}

internal static class SessionEndpoints
{
    public static void MapSessions(this IEndpointRouteBuilder api)
    {
        api.MapGet("/installation", async (ClaimsPrincipal user, Schools schools, ServerSettings settings) => new InstallationDto(await schools.AnyAsync(), settings.FillDemo, user.Identity is { IsAuthenticated: true }))
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

        api.MapDelete("/session", async (HttpContext http, Caller caller, Store.People people) =>
        {
            if (TokenHashOf(http) is { } hash)
                await people.RemoveSessionAsync(hash, caller.Author());
            http.Response.Cookies.Delete(SessionAuthentication.CookieName);
            return TypedResults.NoContent();
        });
    }

    private static async Task<IResult> SignInAsync(
        SignInRequest request, HttpContext http, Store.People people, Store.Accounts accounts, SecondFactors factors, AuditLog audit, IPasswordHasher<Person> hasher, Nobody nobody, SignInThrottle throttle, IClock clock)
    {
        var now = clock.GetCurrentInstant();
        var email = request.Email is { Length: > 0 and <= 320 } typed ? typed.Trim() : "";
        var person = email.Length > 0 ? await people.FindByEmailAsync(email) : null;
        var device = person is not null && DeviceHashOf(http) is { } known && await people.KnowsDeviceAsync(person, known) ? known : null;
        var tried = throttle.Begin(Guess.Password, http.Network(), email, device);
        var verdict = hasher.VerifyHashedPassword(person!, person?.PasswordHash ?? nobody.PasswordHash, request.Password ?? "");
        if (person is null || verdict == PasswordVerificationResult.Failed)
        {
            Log(http, audit, person, "sign-in failed", now);
            return Problems.Of(401, "sign_in_failed", "E-mail and password do not fit together. Check both and try again.");
        }
        tried.WasRight();
        if (await accounts.FactorAsync(person.SchoolId, person.Id) is { IsOn: true } factor)
        {
            if (string.IsNullOrWhiteSpace(request.Code))
                return Problems.Of(401, "code_needed", "Type the code your authenticator shows, or a recovery code.", "code");
            if (!await factors.TakeAsync(http, person.SchoolId, person.Id, factor, request.Code, device))
            {
                Log(http, audit, person, "sign-in failed", now);
                return Problems.Of(401, "code_wrong", "This code does not fit. Type the one that is shown now.", "code");
            }
        }
        await BeginAsync(http, people, person, now);
        await audit.AddAsync(person.SchoolId, person.Id, "sign-in", null, http.Address(), now);
        return TypedResults.NoContent();
    }

    // Once it was answered: how long an answer takes tells nobody whether there is such an account.
    private static void Log(HttpContext http, AuditLog audit, Person? person, string action, Instant now)
    {
        if (person is null)
            return;
        var address = http.Address();
        http.Response.OnCompleted(() => audit.AddAsync(person.SchoolId, person.Id, action, null, address, now));
    }

    /// <summary>Where a request comes from, for what stays when everything else of an account ends.</summary>
    internal static Here Here(HttpContext http) => new(TokenHashOf(http), DeviceHashOf(http));

    private static byte[]? DeviceHashOf(HttpContext http) =>
        http.Request.Cookies.TryGetValue(SessionAuthentication.DeviceCookie, out var secret) && secret.Length is > 0 and <= 100 ? Secrets.HashOf(secret) : null;

    /// <summary>What the session of a request is known by; null when there is none.</summary>
    internal static byte[]? TokenHashOf(HttpContext http) =>
        http.Request.Cookies.TryGetValue(SessionAuthentication.CookieName, out var secret) ? Secrets.HashOf(secret) : null;

    /// <summary>
    /// Begins a session; one that was there before ends, so that nobody's secret outlives a sign-in. The device is known from
    /// then on.
    /// </summary>
    internal static async Task BeginAsync(HttpContext http, Store.People people, Person person, Instant now)
    {
        if (TokenHashOf(http) is { } old && await people.FindBySessionAsync(old, now) is { } before)
            await people.RemoveSessionAsync(old, new Author(before.SchoolId, before.Id, now));
        var (secret, hash) = Secrets.New();
        var (device, deviceHash) = Secrets.New();
        await people.AddSessionAsync(person, hash, DeviceHashOf(http), deviceHash, now, now + SessionAuthentication.Lifetime);
        void Append(string name, string value, Duration lifetime, string path) => http.Response.Cookies.Append(name, value, new CookieOptions
        {
            HttpOnly = true,
            SameSite = SameSiteMode.Lax,
            Secure = http.Request.IsHttps,
            MaxAge = lifetime.ToTimeSpan(),
            Path = path,
        });
        Append(SessionAuthentication.CookieName, secret, SessionAuthentication.Lifetime, "/");
        Append(SessionAuthentication.DeviceCookie, device, Store.People.DeviceLifetime, "/api");
    }
}
