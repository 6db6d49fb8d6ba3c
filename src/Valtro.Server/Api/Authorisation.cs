using System.Collections.Frozen;
using Valtro.Server.Sessions;

namespace Valtro.Server.Api;

/// <summary>What somebody has to be, before an operation looks at anything.</summary>
internal enum Least
{
    /// <summary>Anybody at all: what is asked for is known by a secret, or told to all.</summary>
    Anybody,

    /// <summary>Somebody who is signed in. Of what they get they see what reach gives them.</summary>
    Member,

    /// <summary>Somebody who is signed in, with a role on the calendar in question: decided where the calendar is known.</summary>
    Role,

    /// <summary>An administrator of the school.</summary>
    Administrator,
}

/// <summary>
/// Who may use which operation, in one place. What is not listed is refused, and an operation without an entry, or an entry without
/// an operation, fails the start, and so the build, which reads the API's document from a start.
/// </summary>
internal sealed class Authorisation(RequestDelegate next)
{
    private static readonly FrozenDictionary<string, Least> Entries = """
        administrator GET /api/audit
        administrator GET /api/audit.csv
        member        GET /api/bin
        member        GET /api/bin/calendars
        member        GET /api/board
        member        GET /api/board/changed
        member        GET /api/board/shared-places
        member        GET /api/bringing
        role          POST /api/bringing
        role          POST /api/bringing/{id:guid}
        member        DELETE /api/bringing/{id:guid}
        role          POST /api/bringing/{id:guid}/look
        member        POST /api/calendars
        role          DELETE /api/calendars/{id:guid}
        role          PUT /api/calendars/{id:guid}
        role          GET /api/calendars/{id:guid}/contents
        role          GET /api/calendars/{id:guid}/export/{form}
        role          POST /api/calendars/{id:guid}/hand-over
        role          GET /api/calendars/{id:guid}/keepers
        role          PUT /api/calendars/{id:guid}/reach
        role          POST /api/calendars/{id:guid}/restore
        role          GET /api/calendars/{id:guid}/roles
        role          PUT /api/calendars/{id:guid}/roles
        member        GET /api/changes
        member        GET /api/checks
        role          POST /api/checks/accept
        role          POST /api/checks/event
        role          POST /api/checks/take-back
        role          POST /api/events
        role          POST /api/events/bulk
        role          POST /api/events/dates
        role          POST /api/events/many
        role          POST /api/events/undo
        role          GET /api/events/{eventId:guid}/files/{fileId:guid}/{name?}
        role          DELETE /api/events/{id:guid}
        role          GET /api/events/{id:guid}
        role          PUT /api/events/{id:guid}
        role          POST /api/events/{id:guid}/add-date
        role          POST /api/events/{id:guid}/as-others
        role          POST /api/events/{id:guid}/call-off
        role          POST /api/events/{id:guid}/call-on
        role          POST /api/events/{id:guid}/fields
        role          GET /api/events/{id:guid}/history
        role          GET /api/events/{id:guid}/origin
        role          POST /api/events/{id:guid}/leave-out
        role          POST /api/events/{id:guid}/plan
        role          POST /api/events/{id:guid}/put-back
        role          POST /api/events/{id:guid}/remove-date
        role          POST /api/events/{id:guid}/restore
        role          POST /api/events/{id:guid}/undo
        administrator GET /api/export.zip
        role          POST /api/export/events
        role          POST /api/files
        anybody       POST /api/first-run
        anybody       POST /api/forgotten
        administrator POST /api/groups
        administrator DELETE /api/groups/{id:guid}
        administrator PUT /api/groups/{id:guid}
        anybody       GET /api/installation
        anybody       POST /api/invitation
        anybody       POST /api/invitation/accept
        administrator POST /api/invitations
        administrator DELETE /api/invitations/{id:guid}
        administrator GET /api/limits
        role          POST /api/line
        role          POST /api/lines
        member        POST /api/links/check
        member        GET /api/lists
        administrator PUT /api/lists
        administrator GET /api/mails
        member        GET /api/me/account
        member        GET /api/me/board
        member        PATCH /api/me/board
        member        GET /api/me/data
        member        POST /api/me/email
        member        PUT /api/me/name
        member        PUT /api/me/password
        member        POST /api/me/redo
        member        POST /api/me/second-factor
        member        POST /api/me/second-factor/confirm
        member        POST /api/me/second-factor/off
        member        POST /api/me/second-factor/recovery-codes
        member        PUT /api/me/settings
        member        POST /api/me/sign-out
        member        POST /api/me/undo
        anybody       POST /api/new-address
        anybody       POST /api/new-password
        member        GET /api/opening-requests
        role          POST /api/opening-requests
        role          POST /api/opening-requests/{id:guid}/answer
        member        GET /api/people
        administrator DELETE /api/people/{id:guid}
        administrator GET /api/people/{id:guid}/data
        administrator POST /api/people/{id:guid}/erase
        administrator PUT /api/people/{id:guid}/role
        administrator DELETE /api/people/{id:guid}/second-factor
        role          POST /api/pictures
        role          GET /api/pictures/{id:guid}/{variant}
        member        GET /api/proposals
        role          POST /api/proposals
        role          GET /api/proposals/asked
        role          POST /api/proposals/change/{eventId:guid}
        role          POST /api/proposals/copy/{eventId:guid}
        role          POST /api/proposals/step/{eventId:guid}
        role          DELETE /api/proposals/{id:guid}
        role          PUT /api/proposals/{id:guid}
        role          POST /api/proposals/{id:guid}/answer
        role          GET /api/proposals/{id:guid}/clashes
        role          GET /api/proposals/{id:guid}/files/{fileId:guid}/{name?}
        role          POST /api/proposals/{id:guid}/reopen
        member        GET /api/publications
        member        POST /api/publications
        member        GET /api/publications/for-members
        member        GET /api/publications/title
        role          PUT /api/publications/{id:guid}
        role          POST /api/publications/{id:guid}/discard
        role          POST /api/publications/{id:guid}/duplicate
        role          POST /api/publications/{id:guid}/hand-over
        role          POST /api/publications/{id:guid}/key
        role          GET /api/publications/{id:guid}/look/embed
        role          GET /api/publications/{id:guid}/look/events.json
        role          GET /api/publications/{id:guid}/look/feed.ics
        role          GET /api/publications/{id:guid}/look/page
        member        POST /api/publications/{id:guid}/my-link
        role          GET /api/publications/{id:guid}/proof
        role          POST /api/publications/{id:guid}/publish
        role          POST /api/publications/{id:guid}/put-up
        role          GET /api/publications/{id:guid}/readings
        role          PUT /api/publications/{id:guid}/shares
        role          POST /api/publications/{id:guid}/take-down
        role          POST /api/publications/{id:guid}/take-out
        role          POST /api/reach/event
        member        GET /api/reader-mail
        administrator PUT /api/reader-mail
        member        POST /api/reach/opened
        member        POST /api/rule
        member        GET /api/typed
        member        GET /api/school-years
        administrator POST /api/school-years
        administrator POST /api/school-years/plan
        administrator DELETE /api/school-years/{id:guid}
        administrator PUT /api/school-years/{id:guid}
        member        GET /api/search
        member        DELETE /api/session
        member        GET /api/session
        anybody       POST /api/session
        member        GET /api/sources
        member        POST /api/sources
        member        POST /api/sources/look
        role          PUT /api/sources/{id:guid}
        role          POST /api/sources/{id:guid}/read
        role          GET /api/sources/{id:guid}/readings
        role          PUT /api/sources/{id:guid}/sorting
        role          POST /api/sources/{id:guid}/sorting/try
        role          POST /api/sources/{id:guid}/stop
        member        GET /api/templates
        role          POST /api/templates
        role          DELETE /api/templates/{id:guid}
        role          PUT /api/templates/{id:guid}
        administrator GET /api/who-sees
        administrator GET /api/who-sees.csv
        member        GET /api/zones
        member        GET /api/year
        """.Split('\n').Select(line => line.Split(' ', StringSplitOptions.RemoveEmptyEntries)).ToFrozenDictionary(w => $"{w[1]} {w[2]}", w => Enum.Parse<Least>(w[0], ignoreCase: true));

    public async Task InvokeAsync(HttpContext http, Caller caller)
    {
        if (http.GetEndpoint() is RouteEndpoint endpoint && NameOf(endpoint, http.Request.Method) is { } name)
        {
            if (!Entries.TryGetValue(name, out var least))
                throw new NotAllowedException("You may not do this.");
            if (least == Least.Administrator)
                await caller.NeedAdministratorAsync();
        }
        await next(http);
    }

    /// <summary>Holds the operations against the list.</summary>
    /// <exception cref="InvalidOperationException">They differ.</exception>
    public static void Check(WebApplication app)
    {
        // As those who are served are led: each source makes its own anew for whoever asks it.
        var endpoints = app.Services.GetRequiredService<EndpointDataSource>().Endpoints.OfType<RouteEndpoint>().ToList();
        var there = endpoints
            .SelectMany(e => (e.Metadata.GetMetadata<HttpMethodMetadata>()?.HttpMethods ?? []).Select(m => (Name: NameOf(e, m), IsOpen: e.Metadata.GetMetadata<Microsoft.AspNetCore.Authorization.IAllowAnonymous>() is not null)))
            .Where(o => o.Name is not null)
            .ToList();
        string[] wrong =
        [
            .. there.Where(o => !Entries.ContainsKey(o.Name!)).Select(o => $"{o.Name} has no entry"),
            .. Entries.Keys.Except(there.Select(o => o.Name!)).Select(n => $"{n} is listed and not there"),
            .. there.Where(o => Entries.TryGetValue(o.Name!, out var least) && o.IsOpen != (least == Least.Anybody)).Select(o => $"{o.Name} is open to anybody on one side only"),
        ];
        if (wrong.Length > 0)
            throw new InvalidOperationException("Who may use what (Authorisation.cs) does not fit the operations: " + string.Join("; ", wrong));
    }

    // Null for what is no operation: the answer to addresses nothing is at.
    private static string? NameOf(RouteEndpoint endpoint, string method) =>
        endpoint.RoutePattern.RawText is { } pattern && pattern.StartsWith("/api", StringComparison.Ordinal) && !pattern.Contains("{*", StringComparison.Ordinal) ? $"{method} {pattern.TrimEnd('/')}" : null;
}
