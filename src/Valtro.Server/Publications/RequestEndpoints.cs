using NodaTime;
using Valtro.Core.People;
using Valtro.Core.Publishing;
using Valtro.Core.Reach;
using Valtro.Server.Api;
using Valtro.Server.People;
using Valtro.Server.Sessions;
using Valtro.Store;

namespace Valtro.Server.Publications;

/// <summary>What somebody asks keepers to open.</summary>
internal sealed record RequestInput(Guid PublicationId, Guid CalendarId, Detail Detail, string? Remark = null);

/// <summary>What keepers say: how much they open, nothing for a no.</summary>
internal sealed record RequestAnswerInput(Detail Given, string? Remark = null);

/// <summary>A request as who asked and who keeps the calendar read it.</summary>
internal sealed record RequestDto(
    Guid Id, Guid PublicationId, string Publication, Guid CalendarId, string Calendar, Audience Audience, Detail Detail, string Remark, Instant AskedAt, string? Person, bool IsMine, bool MayAnswer,
    Detail? Given, string? AnswerRemark, string? AnsweredBy, Instant? AnsweredAt);

/// <summary>Whoever publishes asks for what is closed; whoever keeps it answers.</summary>
internal static class RequestEndpoints
{
    private static readonly Duration Told = Duration.FromDays(30);

    public static void MapOpeningRequests(this IEndpointRouteBuilder api)
    {
        var requests = api.MapGroup("/opening-requests");

        requests.MapGet("", async (Caller caller, OpeningRequests store, IClock clock) =>
        {
            var may = await caller.AccessAsync();
            return (await store.ListAsync(caller.SchoolId, clock.GetCurrentInstant() - Told))
                .Where(r => r.Request.PersonId == caller.PersonId || may.Has(r.Request.CalendarId, CalendarRole.Keeper))
                .Select(r => Dto(r, caller, may)).ToArray();
        });

        requests.MapPost("", async (RequestInput input, Caller caller, OpeningRequests store, Store.Publications publications, ServerSettings settings) =>
        {
            var author = caller.Author();
            var publication = await publications.FindAsync(author.SchoolId, input.PublicationId) ?? throw NotFoundException.Publication();
            await PublicationEndpoints.NeedAsync(caller, publication);
            var calendar = await caller.NeedSightAsync(input.CalendarId);
            var request = OpeningRequest.New(publication, calendar, input.Detail, input.Remark, caller.PersonId, author.Now);
            var (school, title) = (await caller.SchoolAsync(), publication.WithDraft.Title);
            await store.AddAsync(request, to => MailTexts.OpeningAsked(school, to.Name, title, calendar.Title, request, settings.Address + "/proposals"), author);
            return await OneAsync(request, caller, store);
        });

        requests.MapPost("/{id:guid}/answer", async (Guid id, RequestAnswerInput input, Caller caller, OpeningRequests store, Store.Calendars calendars, ServerSettings settings) =>
        {
            var author = caller.Author();
            var named = await store.FindAsync(author.SchoolId, id) ?? throw NotFoundException.Request();
            // Who asked knows that it is there; whoever does not keep the calendar answers nothing.
            await caller.NeedAsync(named.Request.CalendarId, CalendarRole.Keeper);
            if (named.Request.Answer is not null)
                return Answered();
            var before = await calendars.FindAsync(author.SchoolId, named.Request.CalendarId) ?? throw NotFoundException.Calendar();
            var (request, reach) = named.Request.Answered(before, input.Given, input.Remark, caller.PersonId, author.Now);
            var opened = reach == before.Reach ? null : (before with { Reach = reach }).After(before);
            var school = await caller.SchoolAsync();
            try
            {
                await store.AnswerAsync(request, before, opened, to => MailTexts.OpeningAnswered(school, to.Name, named.Publication, named.Calendar, request.Answer!, $"{settings.Address}/publish/{request.PublicationId}"), author);
            }
            catch (TakenException)
            {
                return Answered();
            }
            return Results.Ok(await OneAsync(request, caller, store));
        }).Produces<RequestDto>();
    }

    private static IResult Answered() => Problems.Of(StatusCodes.Status409Conflict, "request_answered", "Another keeper has answered this meanwhile.");

    private static async Task<RequestDto> OneAsync(OpeningRequest request, Caller caller, OpeningRequests store)
    {
        var may = await caller.AccessAsync();
        // Who asked for the same before has kept its place.
        var all = await store.ListAsync(caller.SchoolId, request.AskedAt);
        return Dto(all.Last(r => (r.Request.PublicationId, r.Request.CalendarId, r.Request.Audience) == (request.PublicationId, request.CalendarId, request.Audience)), caller, may);
    }

    private static RequestDto Dto(NamedRequest named, Caller caller, Access may)
    {
        var (r, mayAnswer) = (named.Request, may.Has(named.Request.CalendarId, CalendarRole.Keeper));
        return new RequestDto(
            r.Id, r.PublicationId, named.Publication, r.CalendarId, named.Calendar, r.Audience, r.Detail, r.Remark, r.AskedAt, named.Person, r.PersonId == caller.PersonId, mayAnswer && r.Answer is null,
            r.Answer?.Given, r.Answer?.Remark, named.AnsweredBy, r.Answer?.At);
    }
}
