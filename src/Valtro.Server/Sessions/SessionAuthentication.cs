using System.Security.Claims;
using System.Text.Encodings.Web;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Identity;
using Microsoft.Extensions.Options;
using NodaTime;
using Valtro.Server.Api;
using Valtro.Store;

namespace Valtro.Server.Sessions;

/// <summary>
/// Knows a person by the secret in their cookie. The database holds the secret's hash only; looking it up by hash
/// leaves nothing to compare in time.
/// </summary>
internal sealed class SessionAuthentication(
    IOptionsMonitor<AuthenticationSchemeOptions> options, ILoggerFactory logger, UrlEncoder encoder, Store.People people, IClock clock)
    : AuthenticationHandler<AuthenticationSchemeOptions>(options, logger, encoder)
{
    public const string Scheme_ = "session";
    public const string CookieName = "valtro_session";

    /// <summary>The cookie a device is known by when somebody signs in from it again. It signs nobody in.</summary>
    public const string DeviceCookie = "valtro_device";

    public static readonly Duration Lifetime = Duration.FromDays(14);

    protected override async Task<AuthenticateResult> HandleAuthenticateAsync()
    {
        if (!Request.Cookies.TryGetValue(CookieName, out var secret) || secret.Length is 0 or > 100)
            return AuthenticateResult.NoResult();
        var person = await people.FindBySessionAsync(Secrets.HashOf(secret), clock.GetCurrentInstant());
        if (person is null)
            return AuthenticateResult.NoResult();
        var identity = new ClaimsIdentity(
            [
                new Claim(PersonClaims.Person, person.Id.ToString()),
                new Claim(PersonClaims.School, person.SchoolId.ToString()),
                new Claim(PersonClaims.Name, person.Name),
                new Claim(PersonClaims.Email, person.Email),
            ],
            Scheme_);
        return AuthenticateResult.Success(new AuthenticationTicket(new ClaimsPrincipal(identity), Scheme_));
    }

    protected override Task HandleChallengeAsync(AuthenticationProperties properties) =>
        Problems.Of(401, "signed_out", "You are signed out. Sign in again; what you typed is kept.").ExecuteAsync(Context);

    protected override Task HandleForbiddenAsync(AuthenticationProperties properties) =>
        Problems.Of(403, "not_allowed", "You may not do this.").ExecuteAsync(Context);
}

/// <summary>What a session says of its person.</summary>
internal static class PersonClaims
{
    public const string Person = "person";
    public const string School = "school";
    public const string Name = "name";
    public const string Email = "email";

    public static Guid PersonId(this ClaimsPrincipal user) => Guid.Parse(user.FindFirstValue(Person)!);

    public static Guid SchoolId(this ClaimsPrincipal user) => Guid.Parse(user.FindFirstValue(School)!);

}

/// <summary>Registration.</summary>
internal static class SessionServices
{
    public static void AddSessions(this IServiceCollection services)
    {
        services.AddSingleton<IPasswordHasher<Person>, PasswordHasher<Person>>();
        services.AddSingleton<Nobody>();
        services.AddSingleton<SignInThrottle>();
        services.AddScoped<CurrentPerson>();
        services.AddScoped<Caller>();
        services.AddAuthentication(SessionAuthentication.Scheme_)
            .AddScheme<AuthenticationSchemeOptions, SessionAuthentication>(SessionAuthentication.Scheme_, null);
        services.AddAuthorization();
    }
}
