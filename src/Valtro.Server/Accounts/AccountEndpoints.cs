using System.Security.Claims;
using System.Text.Json;
using Microsoft.AspNetCore.Http.Json;
using Microsoft.AspNetCore.Identity;
using Microsoft.Extensions.Options;
using NodaTime;
using OtpNet;
using QRCoder;
using Valtro.Core.Events;
using Valtro.Core.Time;
using Valtro.Server.Api;
using Valtro.Server.Audit;
using Valtro.Server.People;
using Valtro.Server.Sessions;
using Valtro.Store;

namespace Valtro.Server.Accounts;

internal enum DateOrder
{
    DayFirst,
    MonthFirst,
}

internal enum ThemeMode
{
    Auto,
    Light,
    Dark,
}

/// <summary>How somebody wants to see things; what is null is as the school or the browser has it.</summary>
internal sealed record PersonSettingsDto(
    string? Language = null, string? Zone = null, IsoDayOfWeek? WeekStart = null, int? Hours = null, DateOrder? DateOrder = null, ThemeMode? Theme = null)
{
    private const int MostMeanings = 200;
    private const int LongestMeaning = 100;

    /// <summary>What they said that parts of typed lines mean when those were in doubt, by the part; empty for the title.</summary>
    public IReadOnlyDictionary<string, string>? Meanings { get; init; }

    public PersonSettingsDto Checked()
    {
        if (Language is not (null or "en" or "fr"))
            throw new InvalidInputException("no_such_language", "language", "This language is not spoken here. English and French are.");
        if (Zone is not null)
            _ = Zones.Get(Zone);
        if (WeekStart is not (null or IsoDayOfWeek.Monday or IsoDayOfWeek.Sunday or IsoDayOfWeek.Saturday))
            throw new InvalidInputException("week_start", "weekStart", "A week begins on Monday, Sunday or Saturday.");
        if (Hours is not (null or 12 or 24))
            throw new InvalidInputException("hours", "hours", "A clock has 12 or 24 hours.");
        if (Meanings is { Count: > MostMeanings } || (Meanings?.Any(m => m.Key.Length is 0 or > LongestMeaning || m.Value is null or { Length: > LongestMeaning }) ?? false))
            throw new InvalidInputException("too_many_meanings", "meanings", $"At most {MostMeanings} meanings of what you type are kept, each of at most {LongestMeaning} characters. Forget some of them.");
        return this;
    }
}

/// <summary>Somebody's own account.</summary>
internal sealed record AccountDto(string Name, string Email, bool HasSecondFactor, int RecoveryCodes, int Sessions);

internal sealed record NameInput(string? Name);

internal sealed record PasswordInput(string? Current, string? Password);

internal sealed record EmailInput(string? Email, string? Password);

internal sealed record TokenInput(string? Token);

internal sealed record ConfirmInput(string? Password, string? Code = null);

/// <summary>What an authenticator is set up with: a picture, the address in it, and the secret to type.</summary>
internal sealed record FactorSetupDto(string Uri, string Secret, string Picture);

internal sealed record RecoveryCodesDto(IReadOnlyList<string> Codes);

/// <summary>What each keeps of their own account.</summary>
internal static class AccountEndpoints
{
    public static void MapAccounts(this IEndpointRouteBuilder api)
    {
        var me = api.MapGroup("/me");

        me.MapGet("/account", async (ClaimsPrincipal user, Store.Accounts accounts, IClock clock) =>
        {
            var account = await accounts.GetAsync(user.SchoolId(), user.PersonId(), clock.GetCurrentInstant());
            return new AccountDto(user.FindFirstValue(PersonClaims.Name)!, user.FindFirstValue(PersonClaims.Email)!, account.HasSecondFactor, account.RecoveryCodes, account.Sessions);
        });

        me.MapPut("/settings", async (PersonSettingsDto input, ClaimsPrincipal user, Store.Accounts accounts, IOptions<JsonOptions> json) =>
        {
            await accounts.KeepSettingsAsync(user.SchoolId(), user.PersonId(), JsonSerializer.Serialize(input.Checked(), json.Value.SerializerOptions));
            return TypedResults.NoContent();
        }).IsNotLogged();

        me.MapPut("/name", async (NameInput input, Caller caller, Store.Accounts accounts) =>
        {
            await accounts.RenameAsync(Texts.Title(input.Name, "name", 100), caller.Author());
            return TypedResults.NoContent();
        });

        me.MapPut("/password", async (PasswordInput input, HttpContext http, Caller caller, OwnPassword own, Store.Accounts accounts, IPasswordHasher<Person> hasher) =>
        {
            var person = await own.NeedAsync(http, input.Current, "current");
            var password = Passwords.Checked(input.Password, (await caller.SchoolAsync()).Name, person.Name, person.Email);
            await accounts.SetPasswordAsync(hasher.HashPassword(null!, password), SessionEndpoints.Here(http), caller.Author());
            return TypedResults.NoContent();
        });

        me.MapPost("/email", async (EmailInput input, HttpContext http, Caller caller, OwnPassword own, Store.People people, Store.Accounts accounts, ServerSettings settings) =>
        {
            var person = await own.NeedAsync(http, input.Password, "password");
            var email = PeopleEndpoints.Email(input.Email);
            var (secret, hash) = Secrets.New();
            var school = await caller.SchoolAsync();
            var owner = await people.FindByEmailAsync(email);
            if (owner?.SchoolId == person.SchoolId)
                throw new InvalidInputException("email_taken", "email", "Somebody has signed up with this address.");
            // Whether it is somebody's at another school is told to whoever reads its mail alone.
            var isTaken = owner is not null;
            await accounts.WishEmailAsync(
                person,
                email,
                isTaken ? null : hash,
                isTaken ? MailTexts.TakenAddress(school) : MailTexts.NewAddress(school, person.Name, $"{settings.Address}/new-address#{secret}"),
                MailTexts.OldAddress(school, person.Name, email),
                caller.Author());
            return TypedResults.NoContent();
        });

        // The link is opened wherever the mail is read: it may be another device.
        api.MapPost("/new-address", async (TokenInput input, Store.Accounts accounts, AuditLog audit, HttpContext http, IClock clock) =>
        {
            var now = clock.GetCurrentInstant();
            if (await accounts.TakeEmailAsync(PeopleEndpoints.HashOf(input.Token), SessionEndpoints.Here(http), now) is not { } taken)
                throw new NotFoundException("link_expired", "This link was used or is too old. Ask for a new one.");
            await audit.AddAsync(taken.SchoolId, taken.PersonId, "new address", null, http.Address(), now);
            return TypedResults.NoContent();
        }).AllowAnonymous();

        me.MapPost("/second-factor", async (ConfirmInput input, HttpContext http, Caller caller, OwnPassword own, Store.Accounts accounts, SecondFactors factors) =>
        {
            var person = await own.NeedAsync(http, input.Password, "password");
            var secret = SecondFactors.NewSecret();
            await accounts.BeginFactorAsync(factors.Protected(person.Id, secret), caller.Author());
            var uri = SecondFactors.UriOf(secret, person.Email);
            using var data = QRCodeGenerator.GenerateQrCode(uri, QRCodeGenerator.ECCLevel.M);
            using var qr = new SvgQRCode(data);
            return new FactorSetupDto(uri, Base32Encoding.ToString(secret), qr.GetGraphic(4));
        });

        me.MapPost("/second-factor/confirm", async (ConfirmInput input, HttpContext http, Caller caller, OwnPassword own, Store.Accounts accounts, SecondFactors factors) =>
        {
            var person = await own.NeedAsync(http, input.Password, "password");
            if (await accounts.FactorAsync(person.SchoolId, person.Id) is not { IsOn: false } factor)
                throw new InvalidInputException("factor_on", "code", "Begin once more: there is nothing to confirm.");
            if (!await factors.TakeAsync(http, person.SchoolId, person.Id, factor, input.Code))
                throw WrongCode();
            return await NewCodesAsync(http, caller, accounts);
        });

        // Who has the password alone, or sits at a screen that was left open, neither renews the codes nor turns it off.
        me.MapPost("/second-factor/recovery-codes", async (ConfirmInput input, HttpContext http, Caller caller, OwnPassword own, Store.Accounts accounts, SecondFactors factors) =>
        {
            var person = await own.NeedAsync(http, input.Password, "password");
            if (await accounts.FactorAsync(person.SchoolId, person.Id) is not { IsOn: true } factor)
                throw new InvalidInputException("factor_off", "code", "There is no second factor to have recovery codes for.");
            if (!await factors.TakeAsync(http, person.SchoolId, person.Id, factor, input.Code))
                throw WrongCode();
            return await NewCodesAsync(http, caller, accounts);
        });

        me.MapPost("/second-factor/off", async (ConfirmInput input, HttpContext http, Caller caller, OwnPassword own, Store.Accounts accounts, SecondFactors factors) =>
        {
            var person = await own.NeedAsync(http, input.Password, "password");
            if (await accounts.FactorAsync(person.SchoolId, person.Id) is { IsOn: true } factor && !await factors.TakeAsync(http, person.SchoolId, person.Id, factor, input.Code))
                throw WrongCode();
            await accounts.TurnFactorOffAsync(person.Id, SessionEndpoints.Here(http), caller.Author());
            return TypedResults.NoContent();
        });

        me.MapGet("/data", (ClaimsPrincipal user, Store.Accounts accounts) => DataAsync(user.SchoolId(), user.PersonId(), accounts));

        // For somebody who has lost their device, and for those who ask what is kept of them, or that it goes.
        api.MapDelete("/people/{id:guid}/second-factor", async (Guid id, Caller caller, Store.Accounts accounts) =>
        {
            return await accounts.TurnFactorOffAsync(id, Here.Nowhere, caller.Author()) ? TypedResults.NoContent() : throw PeopleEndpoints.Nobody();
        });

        api.MapGet("/people/{id:guid}/data", async (Guid id, ClaimsPrincipal user, Caller caller, Store.Accounts accounts) =>
        {
            return await DataAsync(user.SchoolId(), id, accounts);
        });

        api.MapPost("/people/{id:guid}/erase", async (Guid id, Caller caller, Store.Accounts accounts) =>
        {
            await accounts.EraseAsync(id, caller.Author());
            return TypedResults.NoContent();
        });
    }

    private static async Task<IResult> DataAsync(Guid schoolId, Guid personId, Store.Accounts accounts)
    {
        var data = await accounts.DataAsync(schoolId, personId) ?? throw PeopleEndpoints.Nobody();
        return Results.File(System.Text.Encoding.UTF8.GetBytes(data), "application/json; charset=utf-8", "personal-data.json");
    }

    private static InvalidInputException WrongCode() => new("code_wrong", "code", "This code does not fit. Type the one that is shown now.");

    private static async Task<RecoveryCodesDto> NewCodesAsync(HttpContext http, Caller caller, Store.Accounts accounts)
    {
        var (codes, hashes) = Store.Accounts.NewRecoveryCodes();
        await accounts.TurnFactorOnAsync(hashes, SessionEndpoints.Here(http), caller.Author());
        return new RecoveryCodesDto(codes);
    }
}

/// <summary>Asks for one's own password before what must not be done from a screen that was left open.</summary>
internal sealed class OwnPassword(Store.People people, IPasswordHasher<Person> hasher, SignInThrottle throttle)
{
    /// <exception cref="InvalidInputException"><c>password_wrong</c>.</exception>
    /// <exception cref="TooOftenException">It was tried too often.</exception>
    public async Task<Person> NeedAsync(HttpContext http, string? password, string field)
    {
        var tried = throttle.Begin(Guess.OwnPassword, http.Network(), http.User.PersonId().ToString());
        if (await people.FindByEmailAsync(http.User.FindFirstValue(PersonClaims.Email)!) is { } person && hasher.VerifyHashedPassword(person, person.PasswordHash, password ?? "") != PasswordVerificationResult.Failed)
        {
            tried.WasRight();
            return person;
        }
        throw new InvalidInputException("password_wrong", field, "This is not your password.");
    }
}
