using System.Security.Claims;
using Microsoft.AspNetCore.Identity;
using NodaTime;
using Valtro.Core.People;
using Valtro.Server.Api;
using Valtro.Store;

namespace Valtro.Server.Sessions;

internal sealed record SignInRequest(string Email, string Password);

internal sealed record PersonDto(Guid Id, string Name, string Email, SchoolRole Role);

internal sealed record SchoolDto(Guid Id, string Name, string ShortName, string Zone, string Language, LocalDate Today);

internal sealed record SessionDto(PersonDto Person, SchoolDto School);

internal sealed record InstallationDto(bool HasSchool, bool IsDemo);

internal static class SessionEndpoints
{
    // Hashed once, so that an unknown name takes as long as a wrong password.
    private static readonly string NobodysHash = new PasswordHasher<Person>().HashPassword(null!, Guid.NewGuid().ToString());

    public static void MapSessions(this IEndpointRouteBuilder api)
    {
        api.MapGet("/installation", async (Schools schools, ServerSettings settings) => new InstallationDto(await schools.AnyAsync(), settings.FillDemo))
            .AllowAnonymous();

        api.MapGet("/session", async (ClaimsPrincipal user, Caller caller, Schools schools, IClock clock) =>
        {
            var school = await schools.GetAsync(user.SchoolId());
            return new SessionDto(
                new PersonDto(user.PersonId(), user.FindFirstValue(PersonClaims.Name)!, user.FindFirstValue(PersonClaims.Email)!, (await caller.AccessAsync()).School),
                new SchoolDto(school.Id, school.Name, school.ShortName, school.Zone.Id, school.Language, clock.GetCurrentInstant().InZone(school.Zone).Date));
        });

        api.MapPost("/session", SignInAsync).AllowAnonymous();

        api.MapDelete("/session", async (HttpContext http, Store.People people) =>
        {
            if (http.Request.Cookies.TryGetValue(SessionAuthentication.CookieName, out var secret))
                await people.RemoveSessionAsync(Secrets.HashOf(secret));
            http.Response.Cookies.Delete(SessionAuthentication.CookieName);
            return TypedResults.NoContent();
        });
    }

    private static async Task<IResult> SignInAsync(
        SignInRequest request, HttpContext http, Store.People people, IPasswordHasher<Person> hasher, SignInThrottle throttle, IClock clock)
    {
        var address = http.Connection.RemoteIpAddress?.ToString() ?? "";
        var email = request.Email ?? "";
        var wait = throttle.Wait(address, email);
        if (wait > Duration.Zero)
        {
            var seconds = Math.Max(1, (int)Math.Ceiling(wait.TotalSeconds));
            http.Response.Headers.RetryAfter = seconds.ToString();
            return Problems.Of(429, "sign_in_too_often", $"Too many tries. Wait {seconds} seconds and try again.");
        }
        var person = email.Length is > 0 and <= 320 ? await people.FindByEmailAsync(email.Trim()) : null;
        var verdict = hasher.VerifyHashedPassword(person!, person?.PasswordHash ?? NobodysHash, request.Password ?? "");
        if (person is null || verdict == PasswordVerificationResult.Failed)
        {
            throttle.Failed(address, email);
            return Problems.Of(401, "sign_in_failed", "E-mail and password do not fit together. Check both and try again.");
        }
        throttle.Succeeded(address, email);
        await BeginAsync(http, people, person, clock.GetCurrentInstant());
        return TypedResults.NoContent();
    }

    /// <summary>Begins a session; one that was there before ends, so that nobody's secret outlives a sign-in.</summary>
    internal static async Task BeginAsync(HttpContext http, Store.People people, Person person, Instant now)
    {
        if (http.Request.Cookies.TryGetValue(SessionAuthentication.CookieName, out var old))
            await people.RemoveSessionAsync(Secrets.HashOf(old));
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
