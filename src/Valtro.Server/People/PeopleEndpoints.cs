using System.Security.Claims;
using Microsoft.AspNetCore.Identity;
using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.People;
using Valtro.Server.Accounts;
using Valtro.Server.Sessions;
using Valtro.Store;

namespace Valtro.Server.People;

internal sealed record MemberDto(Guid Id, string Name, string Email, SchoolRole Role);

internal sealed record GroupDto(Guid Id, string Name, IReadOnlyList<Guid> PersonIds);

internal sealed record OpenInvitationDto(Guid Id, string Email, SchoolRole Role, Instant ExpiresAt);

internal sealed record LeftDto(Guid Id, string Name, Instant LeftAt);

/// <summary>The people of a school. Open invitations, and who left, are told to administrators.</summary>
internal sealed record PeopleDto(IReadOnlyList<MemberDto> People, IReadOnlyList<GroupDto> Groups, IReadOnlyList<OpenInvitationDto> Invitations, IReadOnlyList<LeftDto> Left);

internal sealed record InviteInput(string? Email, SchoolRole Role);

internal sealed record RoleInput(SchoolRole Role);

internal sealed record GroupInput(string? Name, IReadOnlyList<Guid>? PersonIds);

/// <summary>A change of a group; what is not said stays as it is.</summary>
/// <param name="Name">Its name from now on.</param>
/// <param name="PersonIds">All who are in it from now on.</param>
/// <param name="Comes">Who comes in beside.</param>
/// <param name="Goes">Who is in it no longer.</param>
internal sealed record GroupChangeInput(string? Name = null, IReadOnlyList<Guid>? PersonIds = null, IReadOnlyList<Guid>? Comes = null, IReadOnlyList<Guid>? Goes = null);

/// <summary>With whom a calendar is shared.</summary>
internal sealed record ShareDto(Guid? PersonId, Guid? GroupId, string Name, CalendarRole Role);

/// <summary>What a person or a group becomes to a calendar; null for nothing.</summary>
internal sealed record ShareInput(Guid? PersonId, Guid? GroupId, CalendarRole? Role);

/// <summary>Who keeps a calendar from now on.</summary>
internal sealed record HandOverInput(Guid PersonId);

/// <summary>What an invitation leads to.</summary>
internal sealed record InvitationDto(string School, string Email);

internal sealed record AcceptInvitationInput(string? Token, string? Name, string? Password);

internal sealed record ForgottenInput(string? Email, string? Language);

internal sealed record NewPasswordInput(string? Token, string? Password);

/// <summary>A mail that could not be sent.</summary>
/// <param name="Id">Identity.</param>
/// <param name="At">When it was written.</param>
/// <param name="Recipient">To whom.</param>
/// <param name="Subject">What about.</param>
/// <param name="Tries">How often it was tried.</param>
/// <param name="Next">When it is tried again; null when it was given up.</param>
/// <param name="Problem">Why.</param>
internal sealed record MailDto(Guid Id, Instant At, string Recipient, string Subject, int Tries, Instant? Next, string Problem);

internal static class PeopleEndpoints
{
    public static void MapPeople(this IEndpointRouteBuilder api)
    {
        api.MapGet("/people", async (ClaimsPrincipal user, Caller caller, Members members, Groups groups, Invitations invitations) =>
        {
            var may = await caller.AccessAsync();
            return new PeopleDto(
                [.. (await members.ListAsync(user.SchoolId())).Select(p => new MemberDto(p.Id, p.Name, p.Email, p.Role))],
                [.. (await groups.ListAsync(user.SchoolId())).Select(g => new GroupDto(g.Id, g.Name, g.PersonIds))],
                may.IsAdministrator ? [.. (await invitations.OpenAsync(user.SchoolId())).Select(i => new OpenInvitationDto(i.Id, i.Email, i.Role, i.ExpiresAt))] : [],
                may.IsAdministrator ? [.. (await members.LeftAsync(user.SchoolId())).Select(p => new LeftDto(p.Id, p.Name, p.LeftAt))] : []);
        });

        api.MapPut("/people/{id:guid}/role", async (Guid id, RoleInput input, Caller caller, Members members) =>
        {
            await members.SetRoleAsync(id, input.Role, caller.Author());
            return TypedResults.NoContent();
        });

        api.MapDelete("/people/{id:guid}", async (Guid id, Caller caller, Members members) =>
        {
            await members.RemoveAsync(id, caller.Author());
            return TypedResults.NoContent();
        });

        api.MapPost("/me/sign-out", async (HttpContext http, Caller caller, Members members) =>
        {
            await members.SignOutAsync(SessionEndpoints.TokenHashOf(http), caller.Author());
            return TypedResults.NoContent();
        });

        // What could not be sent, and why: an address that is mistyped is seen here.
        api.MapGet("/mails", async (ClaimsPrincipal user, Caller caller, Mails mails) =>
        {
            return (await mails.ProblemsAsync(user.SchoolId())).Select(m => new MailDto(m.Id, m.At, m.Recipient, m.Subject, m.Tries, m.Next, m.Problem)).ToList();
        });

        MapGroups(api);
        MapShares(api);
        MapInvitations(api);
    }

    private static void MapGroups(IEndpointRouteBuilder api)
    {
        api.MapPost("/groups", async (GroupInput input, ClaimsPrincipal user, Caller caller, Groups groups) =>
        {
            var id = await groups.AddAsync(input.Name, input.PersonIds ?? [], caller.Author());
            return (await groups.ListAsync(user.SchoolId())).Where(g => g.Id == id).Select(g => new GroupDto(g.Id, g.Name, g.PersonIds)).Single();
        });

        api.MapPut("/groups/{id:guid}", async (Guid id, GroupChangeInput input, Caller caller, Groups groups) =>
        {
            var change = new GroupChange(input.Name, input.PersonIds, input.Comes ?? [], input.Goes ?? []);
            return await groups.ChangeAsync(id, change, caller.Author()) ? TypedResults.NoContent() : throw NoGroup();
        });

        api.MapDelete("/groups/{id:guid}", async (Guid id, Caller caller, Groups groups) =>
        {
            return await groups.RemoveAsync(id, caller.Author()) ? TypedResults.NoContent() : throw NoGroup();
        });
    }

    private static NotFoundException NoGroup() => new("no_such_group", "There is no such group any more.");

    private static void MapShares(IEndpointRouteBuilder api)
    {
        api.MapGet("/calendars/{id:guid}/roles", async (Guid id, ClaimsPrincipal user, Caller caller, Roles roles) =>
        {
            await caller.NeedAsync(id, CalendarRole.Reader);
            return (await roles.SharesAsync(user.SchoolId(), id)).Select(s => new ShareDto(s.PersonId, s.GroupId, s.Name, s.Role)).ToList();
        });

        // A keeper decides for others; everybody may give up their own role.
        // Who sees a calendar is told whom to ask.
        api.MapGet("/calendars/{id:guid}/keepers", async (Guid id, Caller caller, Roles roles) =>
        {
            if (!(await caller.CalendarsAsync()).TryGetValue(id, out var calendar) || !(await caller.AccessAsync()).Sees(calendar))
                throw NotFoundException.Calendar();
            return (await roles.KeepersAsync(caller.SchoolId, [id]))[id].ToArray();
        });

        api.MapPut("/calendars/{id:guid}/roles", async (Guid id, ShareInput input, ClaimsPrincipal user, Caller caller, Roles roles) =>
        {
            if (input.PersonId is null == input.GroupId is null)
                throw new InvalidInputException("no_such_person", "person", "Choose a person or a group.");
            await caller.NeedAsync(id, input.PersonId == user.PersonId() && input.Role is null ? CalendarRole.Reader : CalendarRole.Keeper);
            await roles.SetAsync(id, input.PersonId, input.GroupId, input.Role, caller.Author());
            return (await roles.SharesAsync(user.SchoolId(), id)).Select(s => new ShareDto(s.PersonId, s.GroupId, s.Name, s.Role)).ToList();
        });

        api.MapPost("/calendars/{id:guid}/hand-over", async (Guid id, HandOverInput input, ClaimsPrincipal user, Caller caller, Roles roles) =>
        {
            await caller.NeedAsync(id, CalendarRole.Keeper);
            await roles.HandOverAsync(id, input.PersonId, user.PersonId(), caller.Author());
            return (await roles.SharesAsync(user.SchoolId(), id)).Select(s => new ShareDto(s.PersonId, s.GroupId, s.Name, s.Role)).ToList();
        });
    }

    private static void MapInvitations(IEndpointRouteBuilder api)
    {
        api.MapPost("/invitations", async (InviteInput input, ClaimsPrincipal user, Caller caller, Invitations invitations, ServerSettings settings) =>
        {
            var email = Email(input.Email);
            var school = await caller.SchoolAsync();
            var (secret, hash) = Secrets.New();
            var (subject, body) = MailTexts.Invitation(school, user.FindFirstValue(PersonClaims.Name)!, $"{settings.Address}/join#{secret}");
            var made = await invitations.AddAsync(email, input.Role, hash, subject, body, caller.Author());
            return new OpenInvitationDto(made.Id, made.Email, made.Role, made.ExpiresAt);
        });

        api.MapDelete("/invitations/{id:guid}", async (Guid id, Caller caller, Invitations invitations) =>
        {
            return await invitations.RemoveAsync(id, caller.Author()) ? TypedResults.NoContent() : throw NoInvitation();
        });

        // The secret comes in the body: addresses stand in logs.
        api.MapPost("/invitation", async (NewPasswordInput input, Invitations invitations, Schools schools, IClock clock) =>
        {
            var found = await invitations.FindAsync(HashOf(input.Token), clock.GetCurrentInstant()) ?? throw NoInvitation();
            return new InvitationDto((await schools.GetAsync(found.SchoolId)).Name, found.Email);
        }).AllowAnonymous();

        api.MapPost("/invitation/accept", async (AcceptInvitationInput input, HttpContext http, Invitations invitations, Schools schools, Store.People people, IPasswordHasher<Person> hasher, IClock clock) =>
        {
            var (now, hash) = (clock.GetCurrentInstant(), HashOf(input.Token));
            var found = await invitations.FindAsync(hash, now) ?? throw NoInvitation();
            var name = Texts.Title(input.Name, "name", 100);
            var password = Passwords.Checked(input.Password, (await schools.GetAsync(found.SchoolId)).Name, name, found.Email);
            var person = new Person(Guid.CreateVersion7(), found.SchoolId, name, found.Email, hasher.HashPassword(null!, password), found.Role);
            if (!await invitations.UseAsync(hash, person, now))
                throw NoInvitation();
            await SessionEndpoints.BeginAsync(http, people, person, now);
            return TypedResults.NoContent();
        }).AllowAnonymous();

        api.MapPost("/forgotten", (ForgottenInput input, HttpContext http, Store.People people, Invitations invitations, Schools schools, ServerSettings settings, ResetThrottle throttle, IClock clock) =>
        {
            var now = clock.GetCurrentInstant();
            // Whether somebody has the address is nobody's business: the answer is always the same, and comes as soon.
            if (EmailIn(input.Email) is { } email && throttle.Allows(email, now))
            {
                http.Response.OnCompleted(async () =>
                {
                    if (await people.FindByEmailAsync(email) is not { } person)
                        return;
                    var (secret, hash) = Secrets.New();
                    var (subject, body) = MailTexts.Reset(await schools.GetAsync(person.SchoolId), person.Name, $"{settings.Address}/new-password#{secret}");
                    await invitations.AddResetAsync(person, hash, subject, body, now);
                });
            }
            return TypedResults.NoContent();
        }).AllowAnonymous();

        api.MapPost("/new-password", async (NewPasswordInput input, Invitations invitations, Schools schools, IPasswordHasher<Person> hasher, IClock clock) =>
        {
            var (now, hash) = (clock.GetCurrentInstant(), HashOf(input.Token));
            var found = await invitations.FindResetAsync(hash, now) ?? throw NoReset();
            var password = Passwords.Checked(input.Password, (await schools.GetAsync(found.SchoolId)).Name, found.Name, found.Email);
            return await invitations.ResetAsync(found.SchoolId, hash, hasher.HashPassword(null!, password), now) ? TypedResults.NoContent() : throw NoReset();
        }).AllowAnonymous();
    }

    private static NotFoundException NoReset() => new("reset_expired", "This link was used or is too old. Ask for a new one.");

    private static NotFoundException NoInvitation() =>
        new("no_such_invitation", "This invitation was used, taken back, or is too old. Ask for a new one.");

    internal static NotFoundException Nobody() => new("no_such_person", "There is nobody of this name in the school any more.");

    internal static byte[] HashOf(string? secret) => Secrets.HashOf(secret is { Length: > 0 and <= 100 } ? secret : "-");

    internal static string Email(string? text) =>
        EmailIn(text) ?? throw new InvalidInputException("email_malformed", "email", "This is no e-mail address. Write it as name@school.example.");

    // What is none is not looked for either: not every text can be asked of a database.
    private static string? EmailIn(string? text)
    {
        var email = (text ?? "").Trim();
        return email.Length is > 2 and <= 320 && !email.Any(char.IsControl) && System.Net.Mail.MailAddress.TryCreate(email, out var parsed) && parsed.Address == email ? email : null;
    }
}
