using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.People;
using Valtro.Core.Reach;
using Valtro.Core.Sources;
using Valtro.Server.Api;
using Valtro.Server.Audit;
using Valtro.Server.Commands;
using Valtro.Server.Sessions;
using Valtro.Server.Views;

namespace Valtro.Server.Sources;

/// <summary>Addresses that are followed: made, changed, read, sorted, given up.</summary>
internal static class SourceEndpoints
{
    private const int MostShown = 300;
    private const int MostSamples = 8;

    public static void MapSources(this IEndpointRouteBuilder api)
    {
        var sources = api.MapGroup("/sources");

        sources.MapGet("", async (Caller caller, Store.Sources store) =>
        {
            var (may, calendars) = (await caller.AccessAsync(), await caller.CalendarsAsync());
            var last = await store.LastReadingsAsync(caller.SchoolId);
            return (await store.ListAsync(caller.SchoolId, caller.Aborted))
                .Where(s => calendars.TryGetValue(s.CalendarId, out var lane) && may.Has(lane.Id, CalendarRole.Reader))
                .Select(s => SourceDto.Of(s, may.Has(s.CalendarId, CalendarRole.Keeper), last.GetValueOrDefault(s.Id))).ToArray();
        });

        sources.MapPost("/look", async (AddressInput input, Caller caller, SourceFetcher fetcher) =>
        {
            var address = Source.CleanAddress(input.Address);
            var zone = (await caller.SchoolAsync()).Zone;
            var (_, read) = await FetchAsync(address, zone, fetcher, caller.Aborted);
            var today = await caller.TodayAsync();
            var next = SourceEvent.Of(read.Events, zone).Select(e => e.NextFrom(today))
                .Where(e => e.Next is not null).OrderBy(e => e.Next).Take(MostSamples).Select(e => new SampleDto(e.Title, e.Next!.Value)).ToList();
            return new AddressDto(address, read.Name, read.Events.Count, next.Count == 0 ? null : next[0].Date, next, read.Left.Sum(l => l.Count));
        }).RequireRateLimiting(RateLimits.Outside).IsNotLogged();

        sources.MapPost("", async (FollowInput input, Caller caller, Store.Sources store, SourceFetcher fetcher, SourceIntake intake) =>
        {
            var address = Source.CleanAddress(input.Address);
            CheckDays(input.EveryMinutes, input.PastDays, input.AheadDays);
            var lane = Calendar.Apply(null, Guid.CreateVersion7(), input.Title, "", input.Group, input.Zone, input.Mark) with { IsFollowed = true };
            // Nothing is kept of an address that gives nothing.
            var (fetched, read) = await FetchAsync(address, lane.Zone, fetcher, caller.Aborted);
            var author = caller.Author();
            var source = new Source { Id = Guid.CreateVersion7(), CalendarId = lane.Id, PersonId = author.PersonId, Address = address, EveryMinutes = input.EveryMinutes, PastDays = input.PastDays, AheadDays = input.AheadDays };
            await intake.FollowAsync(author, lane, source);
            await intake.TakeAsync(author.SchoolId, source.Id, fetched, read, isEmptyRight: true, CancellationToken.None);
            return await DtoAsync(source.Id, author.SchoolId, store);
        }).RequireRateLimiting(RateLimits.Outside);

        sources.MapPut("/{id:guid}", async (Guid id, SourceInput input, Caller caller, Store.Sources store, SourceReader reader, IClock clock) =>
        {
            var before = await NeedAsync(id, caller, store, input.Version);
            CheckDays(input.EveryMinutes, input.PastDays, input.AheadDays);
            var after = before with { EveryMinutes = input.EveryMinutes, PastDays = input.PastDays, AheadDays = input.AheadDays, Version = before.Version + 1 };
            after = after with { NextAt = before is { NextAt: not null, Problem: null, ReadAt: { } at } ? at + after.Pause : before.NextAt };
            await store.SaveAsync(before, after, caller.Author());
            if ((before.PastDays, before.AheadDays) != (after.PastDays, after.AheadDays))
                await AnewAsync(caller.SchoolId, id, store, reader, clock);
            return await DtoAsync(id, caller.SchoolId, store);
        }).RequireRateLimiting(RateLimits.Outside);

        sources.MapPost("/{id:guid}/read", async (Guid id, ReadNowInput input, Caller caller, Store.Sources store, SourceReader reader, IClock clock) =>
        {
            await NeedAsync(id, caller, store, null);
            var now = clock.GetCurrentInstant();
            if (!await store.TakeAsync(caller.SchoolId, id, now, SourceReader.LeasedUntil(now)))
                return Problems.Of(StatusCodes.Status409Conflict, "source_being_read", "It is being read just now.");
            // Begun, it is brought to its end.
            await reader.ReadAsync(caller.SchoolId, id, isAnew: true, input.IsEmptyRight, CancellationToken.None);
            return Results.Ok(await DtoAsync(id, caller.SchoolId, store));
        }).Produces<SourceDto>().RequireRateLimiting(RateLimits.Outside);

        sources.MapGet("/{id:guid}/readings", async (Guid id, Caller caller, Store.Sources store) =>
        {
            await NeedAsync(id, caller, store, null);
            return (await store.ReadingsAsync(caller.SchoolId, id)).Select(SourceReadingDto.Of).ToArray();
        });

        sources.MapPost("/{id:guid}/stop", async (Guid id, StopInput input, Caller caller, Store.Sources store, SourceIntake intake) =>
        {
            var source = await NeedAsync(id, caller, store, null);
            await intake.StopAsync(caller.Author(), source, input.Keeps);
            return TypedResults.NoContent();
        });

        sources.MapPost("/{id:guid}/sorting/try", async (Guid id, SortingInput input, Caller caller, Store.Sources store, SourceIntake intake) =>
        {
            var source = await NeedAsync(id, caller, store, null);
            var rules = await RulesAsync(input, caller);
            var read = await LastAsync(source, caller, store);
            var all = await intake.TryAsync(caller.Author(), source, rules, read, Source.MostEvents);
            var may = await caller.AccessAsync();
            var own = (await caller.CalendarsAsync()).Values.Where(c => may.MayEdit(c.Id)).ToList();
            return new SortingTrialDto(
                [.. Sorting.Groups(read.Events, own).Select(SortingGroupDto.Of)],
                [.. all.Take(MostShown)],
                all.Count,
                [.. rules.Select((_, i) => all.Count(e => e.Rule == i))],
                all.Count(e => e.Rule is null));
        }).IsNotLogged();

        sources.MapPut("/{id:guid}/sorting", async (Guid id, SortingInput input, Caller caller, Store.Sources store, SourceReader reader, IClock clock) =>
        {
            var before = await NeedAsync(id, caller, store, input.Version);
            var rules = await RulesAsync(input, caller);
            // Whoever sorts answers for where events come to.
            await store.SaveAsync(before, before with { Sorting = rules, PersonId = caller.PersonId, Version = before.Version + 1 }, caller.Author());
            await AnewAsync(caller.SchoolId, id, store, reader, clock);
            return await DtoAsync(id, caller.SchoolId, store);
        }).RequireRateLimiting(RateLimits.Outside);

        api.MapGet("/events/{id:guid}/origin", async (Guid id, Caller caller, Store.Sources store, EventViews views) =>
        {
            // Where it comes from is the team's.
            if (await views.NeedAsync(id, Detail.Everything) is not { IsTeams: true } e)
                return Results.NoContent();
            if (await store.OriginAsync(caller.SchoolId, id) is not var (origin, source))
            {
                return e.RelatedTo is { } uid && await views.ByUidAsync(uid) is { Detail: >= Detail.Headlines } from && await store.OriginAsync(caller.SchoolId, from.Id) is var (there, _)
                    ? Results.Ok(new OriginDto(there.Name, there.SourceId, null, null, false, [], new CopiedFromDto(from.Id, from.Title!, from.Timing.Start.Date, from.Timing.Start)))
                    : Results.NoContent();
            }
            return Results.Ok(new OriginDto(origin.Name, origin.SourceId, source?.ReadAt, source?.Problem, origin.IsKept, origin.Own));
        }).Produces<OriginDto>().Produces(StatusCodes.Status204NoContent);
    }

    // The rules as they would be kept: each leads to a calendar whose events they keep.
    private static async Task<System.Collections.Immutable.ImmutableArray<SortingRule>> RulesAsync(SortingInput input, Caller caller)
    {
        var rules = Sorting.Checked([.. (input.Rules ?? []).Select(r => r.ToRule())]);
        var (may, calendars) = (await caller.AccessAsync(), await caller.CalendarsAsync());
        foreach (var calendar in rules.Select(r => r.CalendarId).Distinct())
        {
            if (!calendars.TryGetValue(calendar, out var known) || !may.Sees(known))
                throw NotFoundException.Calendar();
            if (!may.MayEdit(calendar))
                throw known.IsFollowed ? NotAllowedException.Followed() : NotAllowedException.Role(CalendarRole.Editor);
        }
        return rules;
    }

    private static async Task<ReadCalendar> LastAsync(Source source, Caller caller, Store.Sources store)
    {
        var zone = (await caller.CalendarsAsync())[source.CalendarId].Zone;
        return await store.BodyAsync(caller.SchoolId, source.Id) is { } body && SourceReader.Read(body, zone, out _) is { } read ? read : new ReadCalendar("", [], []);
    }

    // What was asked for shows at once where it can; else with the next reading.
    private static async Task AnewAsync(Guid schoolId, Guid id, Store.Sources store, SourceReader reader, IClock clock)
    {
        var now = clock.GetCurrentInstant();
        if (await store.TakeAsync(schoolId, id, now, SourceReader.LeasedUntil(now)))
            await reader.ReadAsync(schoolId, id, isAnew: true, isEmptyRight: false, CancellationToken.None);
    }

    private static async Task<(Fetched Fetched, ReadCalendar Read)> FetchAsync(string address, DateTimeZone zone, SourceFetcher fetcher, CancellationToken cancellation)
    {
        var fetched = await fetcher.FetchAsync(address, null, null, cancellation);
        if (fetched.Outcome != FetchOutcome.Fresh)
            throw SourceProblem.Of(fetched.Problem ?? "source_failed");
        return SourceReader.Read(fetched.Body, zone, out var problem) is { } read ? (fetched, read) : throw SourceProblem.Of(problem!);
    }

    private static async Task<SourceDto> DtoAsync(Guid id, Guid schoolId, Store.Sources store)
    {
        var source = await store.FindAsync(schoolId, id) ?? throw SourceIntake.Missing();
        return SourceDto.Of(source, true, (await store.LastReadingsAsync(schoolId)).GetValueOrDefault(id));
    }

    private static async Task<Source> NeedAsync(Guid id, Caller caller, Store.Sources store, int? version)
    {
        var source = await store.FindAsync(caller.SchoolId, id) ?? throw SourceIntake.Missing();
        var (may, calendars) = (await caller.AccessAsync(), await caller.CalendarsAsync());
        if (!calendars.TryGetValue(source.CalendarId, out _) || !may.Has(source.CalendarId, CalendarRole.Reader))
            throw SourceIntake.Missing();
        await caller.NeedAsync(source.CalendarId, CalendarRole.Keeper);
        return version is null || version == source.Version ? source : throw new StaleWriteException(source);
    }

    private static void CheckDays(int? every, int past, int ahead)
    {
        if (every is < Source.LeastMinutes or > Source.MostMinutes)
            throw new InvalidInputException("source_pause", "everyMinutes", $"It is read every {Source.LeastMinutes} minutes at most, and once a day at least.");
        if (past is < 0 or > Source.MostDays || ahead is < 1 or > Source.MostDays)
            throw new InvalidInputException("source_days", "aheadDays", $"Days back and ahead: up to {Source.MostDays}.");
    }
}
