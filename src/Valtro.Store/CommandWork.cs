using Dapper;
using NodaTime;
using Valtro.Core;
using Valtro.Core.Commands;
using Valtro.Core.Events;
using Valtro.Core.Limits;
using Valtro.Core.People;
using Valtro.Core.Publishing;
using Valtro.Core.SchoolYears;
using Valtro.Core.Sources;
using Valtro.Core.Views;

namespace Valtro.Store;

/// <summary>
/// A command's work in the database: what it is applied to is loaded and held, what it does is saved with all that goes
/// along, on one connection in one transaction. Nothing else writes an event. For the server's command handler alone.
/// </summary>
public sealed class CommandWork : IAsyncDisposable
{
    private readonly WriteTransaction write;
    private readonly DateTimeZone zone;

    private CommandWork(WriteTransaction write, DateTimeZone zone, CommandState state)
    {
        (this.write, this.zone, State) = (write, zone, state);
    }

    /// <summary>What the command is applied to. Events and proposals of it are held: nobody else changes them meanwhile.</summary>
    public CommandState State { get; private set; }

    /// <summary>The identity of the change, by which it can be taken back.</summary>
    public Guid ChangeId => write.ChangeId;

    /// <summary>The school.</summary>
    public Guid SchoolId => write.Author.SchoolId;

    /// <summary>Begins.</summary>
    /// <param name="db">The way to the tables.</param>
    /// <param name="author">Who gives the command.</param>
    /// <param name="needs">What it is applied to.</param>
    /// <param name="holdsSchool">Whether more than events is written: nobody else of the school writes meanwhile.</param>
    /// <param name="cancellation">Gives up.</param>
    /// <exception cref="NotAllowedException">They are no longer of the school.</exception>
    public static async Task<CommandWork> BeginAsync(Connections db, Author author, CommandNeeds needs, bool holdsSchool = false, CancellationToken cancellation = default)
    {
        var write = await WriteTransaction.BeginAsync(db, author, cancellation: cancellation);
        try
        {
            if (holdsSchool)
                await write.HoldSchoolAsync();
            return await LoadAsync(write, needs, cancellation);
        }
        catch
        {
            await write.DisposeAsync();
            throw;
        }
    }

    /// <summary>Removes for good what has lain in a school's bin for its time. Nobody but the team knew of it any more.</summary>
    /// <returns>How many events that were.</returns>
    public static Task<int> EmptyBinAsync(Connections db, Guid schoolId, Instant now) => new Events(db).EmptyBinAsync(schoolId, now);

    /// <summary>Loads more, as what a step that is taken back was about.</summary>
    public async Task LoadAsync(CommandNeeds needs, CancellationToken cancellation = default)
    {
        var more = await LoadAsync(write, needs, cancellation);
        State = more.State;
    }

    /// <summary>Saves what a command does.</summary>
    /// <param name="outcome">What it does.</param>
    /// <param name="action">What it is called in the history.</param>
    /// <param name="cancellation">Gives up.</param>
    /// <exception cref="StaleWriteException">Somebody else has changed one of the events.</exception>
    /// <exception cref="InvalidInputException"><c>no_such_file</c>, <c>too_many_proposals</c>.</exception>
    public async Task SaveAsync(CommandOutcome outcome, string action, CancellationToken cancellation = default)
    {
        var author = write.Author;
        if (outcome.Steps.Count > 0)
        {
            var rows = EventColumns.RowsOf(outcome.Steps.Select(s => s.After), author.SchoolId);
            var made = outcome.Steps.Where(s => s.Before is null).Select(s => s.After.Id).ToArray();
            var kept = await write.Connection.ExecuteAsync(new CommandDefinition(
                $"""
                insert into event ({EventColumns.Inserted})
                select {EventColumns.Inserted} from jsonb_populate_recordset(null::event, @rows::jsonb) where id = any(@made);
                update event e set ({EventColumns.Written}) = (select {Of("r", EventColumns.Written)})
                from jsonb_populate_recordset(null::event, @rows::jsonb) r
                where e.id = r.id and e.school_id = @SchoolId and e.id <> all(@made) and e.version < r.version
                """,
                new { author.SchoolId, rows, made },
                cancellationToken: cancellation));
            if (kept != outcome.Steps.Count)
                throw new StaleWriteException(outcome.Steps[0].After.Id);
            await Contents.TieAsync(write.Connection, author.SchoolId, author.PersonId, [.. outcome.Steps.Select(s => s.After)]);
            foreach (var (before, after) in outcome.Steps)
                write.Record("event", after.Id, action, before is null ? null : StoredEvent.Write(before), StoredEvent.Write(after));
            if (outcome.Steps.Sum(s => (s.After.DeletedAt is null ? 1 : 0) - (s.Before is { DeletedAt: null } ? 1 : 0)) > 0)
                write.Grows(Limited.Events);
            await TellAsync(outcome.Steps, cancellation);
        }
        if (outcome.Taken is { } taken)
        {
            var before = State.Origins.ToDictionary(o => o.EventId);
            await KeepAsync([.. taken.Select(r => r.Origin).OfType<Origin>()]);
            // Taken back, an event has not been read in that state.
            foreach (var after in taken.Where(r => author.PersonId is not null && r.After is not null).Select(r => r.Origin).OfType<Origin>())
            {
                if (before.TryGetValue(after.EventId, out var known))
                    write.Record("origin", after.EventId, action, OriginRow.Write(known), OriginRow.Write(after));
            }
        }
        if (outcome.Gone.Count > 0)
            await Proposals.RemoveAsync(write, outcome.Gone);
        if (outcome.Proposal is { } proposal)
            await Proposals.KeepAsync(write, outcome.ProposalBefore, proposal, action);
    }

    /// <summary>Keeps a school year, or gives one up; the days of <see cref="State"/> are those from then on.</summary>
    /// <exception cref="InvalidInputException"><c>school_years_overlap</c>.</exception>
    /// <exception cref="StaleWriteException">The stored version is no longer <paramref name="before"/>'s.</exception>
    public async Task KeepYearAsync(SchoolYear? before, SchoolYear? after, string action)
    {
        Plan(before, after);
        await SchoolYears.SaveAsync(write, before, after, action);
    }

    /// <summary>As <see cref="KeepYearAsync"/>, without keeping anything: to see what it would do.</summary>
    public void Plan(SchoolYear? before, SchoolYear? after)
    {
        var id = (after ?? before)!.Id;
        var stored = State.Days.Years.FirstOrDefault(y => y.Id == id);
        if (before is not null && stored?.Version != before.Version)
            throw new StaleWriteException(stored ?? before);
        State = State with { Days = SchoolYears.With(State.Days, id, after) };
    }

    /// <summary>Says that what is done is no step that can be taken back.</summary>
    public void IsNoStep() => write.IsNoStep();

    /// <summary>Finds a step to take back, or to do again: see <see cref="Steps.FindAsync"/>. What is done then is no step of its own.</summary>
    public async Task<Step?> TakeStepAsync(bool isRedo, Guid? id, Instant since)
    {
        write.IsNoStep();
        if (await Steps.FindAsync(write, isRedo, id, since) is not { } step)
            return null;
        await Steps.MarkAsync(write, step.Id, isRedo);
        return isRedo ? step.Turned : step;
    }

    /// <summary>The calendar as it is now, in the bin or not.</summary>
    public Task<Calendar?> CalendarAsync(Guid id) => Calendars.FindAsync(write.Connection, write.Author.SchoolId, id);

    /// <summary>Keeps a calendar.</summary>
    public Task KeepAsync(Calendar before, Calendar after, string action) => Calendars.SaveAsync(write, before, after, action);

    /// <summary>Keeps the lists.</summary>
    public Task KeepAsync(SchoolLists after, string action) => Lists.SaveAsync(write, after, action);

    /// <summary>The publication as it is now.</summary>
    public Task<Publication?> PublicationAsync(Guid id) => Publications.FindAsync(write.Connection, write.Author.SchoolId, id);

    /// <summary>Keeps a publication; gives one up that never was out when there is none after.</summary>
    public async Task KeepAsync(Publication? before, Publication? after, string action)
    {
        if (after is null)
            await Publications.RemoveAsync(write, before!, action);
        else
            await Publications.SaveAsync(write, before, after, action);
    }

    /// <summary>A source as it is now, held; null when it is not followed any more.</summary>
    public Task<Source?> SourceAsync(Guid id) => Sources.HoldAsync(write, id);

    /// <summary>Keeps a new source.</summary>
    /// <exception cref="InvalidInputException"><c>too_many_sources</c>.</exception>
    public Task AddAsync(Source source) => Sources.AddAsync(write, source);

    /// <summary>Keeps what came of asking a source, what it gave, and what that changed.</summary>
    public async Task KeepAsync(Source source, byte[]? body, SourceReading? reading)
    {
        await Sources.KeepStateAsync(write, source, body);
        if (reading is not null)
            await Sources.LogAsync(write, source.Id, reading);
        write.Concerns([source.CalendarId]);
    }

    /// <summary>Gives a source up; what comes from it keeps saying so.</summary>
    public Task RemoveAsync(Source source) => Sources.RemoveAsync(write, source.Id);

    /// <summary>Keeps where events come from.</summary>
    public Task KeepAsync(IReadOnlyList<Origin> origins) => Sources.KeepAsync(write, origins);

    /// <summary>Keeps that a file was brought in.</summary>
    public Task KeepAsync(Brought brought) => Sources.KeepBroughtAsync(write, brought);

    /// <summary>Keeps a new calendar.</summary>
    public Task MakeAsync(Calendar calendar) => Calendars.SaveAsync(write, null, calendar, "create");

    /// <summary>Keeps it all, and lets others know.</summary>
    public Task CommitAsync(CancellationToken cancellation = default) => write.CommitAsync(cancellation);

    public ValueTask DisposeAsync() => write.DisposeAsync();

    /// <summary>Which publications send out something else by what became of events, and whom it concerns.</summary>
    internal async Task TellAsync(IReadOnlyList<EventStep> steps, CancellationToken cancellation)
    {
        Guid[] standing = [.. steps.SelectMany(s => (s.Before?.CalendarIds ?? []).Concat(s.After.CalendarIds)).Distinct()];
        var pairs = steps.Select(s => (s.Before, (Event?)s.After)).ToList();
        var publications = await Publications.ShowingAsync(write.Connection, write.Author.SchoolId, standing, cancellation);
        foreach (var publication in publications)
            write.Touch([publication.Id], Outgoing.EffectOf(publication, zone, State.Calendars, State.Lists, pairs, write.Author.Now));
        // Members without a role hear of it only where what they get of it differs.
        var members = Eyes.Of(Access.Nobody, State.Calendars, State.Lists, write.Author.SchoolId);
        if (pairs.Any(p => (p.Before is null ? null : members.View(p.Before)) != members.View(p.Item2!)))
            write.ConcernsMembers();
        write.Concerns(standing);
    }

    private static string Of(string row, string columns) => string.Join(", ", columns.Split(", ").Select(c => $"{row}.{c}"));

    private static async Task<CommandWork> LoadAsync(WriteTransaction write, CommandNeeds needs, CancellationToken cancellation)
    {
        var author = write.Author;
        // The school comes first, then proposals, then events by their identities: who writes at once waits in one order. What
        // decides of events (years, calendars, lists, publications) is not changed meanwhile.
        var proposals = needs.Proposals.Count > 0 || needs.ChangesOf is not null;
        const string Wanted = "o.school_id = @SchoolId and (o.source_id = @SourceId or (@SourceId::uuid is null and o.source_id is null and (o.key = any(@keys) or o.name = @originName)))";
        var origins = needs.Origins;
        var sql =
            $"""
            select zone from school where id = @SchoolId for share;
            {SchoolYears.Selected}
            {Calendars.SelectedAll}
            {Lists.Selected}
            {Roles.Selected}
            {(proposals ? Proposals.SelectedFor : "")}
            {(origins is null ? "" : $"""
                select {OriginRow.Columns} from origin o where {Wanted} and (@SourceId::uuid is not null or exists (select from event e where e.id = o.event_id and e.calendar_id = any(@originCalendars)));
                select uid from event where school_id = @SchoolId and uid = any(@keys);
                """)}
            select {EventColumns.Selected} from event
            where school_id = @SchoolId and (id = any(@events)
                {(proposals ? "or id in (select event_id from proposal where school_id = @SchoolId and id = any(@proposals)) or id in (select (a->>'id')::uuid from proposal, jsonb_array_elements(added) a where school_id = @SchoolId and id = any(@proposals))" : "")}
                {(origins is null ? "" : $"or (id in (select event_id from origin o where {Wanted}) and (@SourceId::uuid is not null or calendar_id = any(@originCalendars)))")}
                {(needs.Following ? "or follows is not null" : "")})
            order by id for update
            """;
        using var result = await write.Connection.QueryMultipleAsync(new CommandDefinition(
            sql,
            new { author.SchoolId, author.PersonId, events = needs.Events.ToArray(), proposals = needs.Proposals.ToArray(), needs.ChangesOf, origins?.SourceId, keys = origins?.Keys.ToArray() ?? [], originName = origins?.Name ?? "", originCalendars = origins?.CalendarIds.ToArray() ?? [] },
            cancellationToken: cancellation));
        var zone = Core.Time.Zones.Get(await result.ReadSingleOrDefaultAsync<string>() ?? throw new InvalidOperationException("There is no such school."));
        var years = await SchoolYears.ReadAsync(result);
        var (calendars, binned) = await Calendars.ReadAsync(result);
        var lists = await Lists.ReadAsync(result);
        var access = await Roles.ReadAsync(result);
        if (access is null && author.PersonId is not null)
            throw new NotAllowedException("You are no longer of this school.");
        var known = proposals ? await Proposals.ReadAsync(result) : [];
        List<Origin> from = origins is null ? [] : [.. (await result.ReadAsync<OriginRow>()).Select(r => r.ToOrigin())];
        var uids = origins is null ? [] : (await result.ReadAsync<string>()).ToHashSet(StringComparer.Ordinal);
        var events = (await result.ReadAsync<EventColumns>()).Select(r => r.ToEvent()).ToDictionary(e => e.Id);
        access ??= Access.Nobody;
        return new CommandWork(write, zone, new CommandState
        {
            Now = author.Now,
            PersonId = author.PersonId,
            Access = access,
            Eyes = Eyes.Of(access, calendars, lists, author.PersonId ?? Guid.Empty),
            Calendars = calendars,
            Binned = binned,
            Lists = lists,
            Days = years.Days,
            Events = events,
            Proposals = known,
            Origins = from,
            TakenUids = uids,
        });
    }
}
