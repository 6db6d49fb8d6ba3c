using System.Text.Json;
using Microsoft.AspNetCore.Diagnostics;
using NodaTime;
using Npgsql;
using Valtro.Core.Events;
using Valtro.Core.Publishing;
using Valtro.Core.SchoolYears;
using Valtro.Core.Views;
using Valtro.Server.Calendars;
using Valtro.Server.Events;
using Valtro.Server.Files;
using Valtro.Server.Lists;
using Valtro.Server.Outlets;
using Valtro.Server.Publications;
using Valtro.Server.Seeing;
using Valtro.Server.Years;
using Valtro.Store;

namespace Valtro.Server.Api;

/// <summary>Something was tried too often.</summary>
/// <param name="wait">How long to wait.</param>
internal sealed class TooOftenException(Duration wait) : Exception($"Too many tries. Wait {SecondsOf(wait)} seconds and try again.")
{
    public int Seconds { get; } = SecondsOf(wait);

    private static int SecondsOf(Duration wait) => Math.Max(1, (int)Math.Ceiling(wait.TotalSeconds));
}

/// <summary>Problem details (RFC 9457): a stable code, the field, a sentence for a person.</summary>
internal static class Problems
{
    public static IResult Of(int status, string code, string detail, string? field = null, object? current = null)
    {
        var extensions = new Dictionary<string, object?> { ["code"] = code };
        if (field is not null)
            extensions["field"] = field;
        if (current is not null)
            extensions["current"] = current;
        return Results.Problem(detail, statusCode: status, extensions: extensions);
    }

    /// <summary>What an answer without a body says: the framework gives some where nothing of ours was asked.</summary>
    public static IResult OfStatus(int status) => status switch
    {
        404 => NotFound("no_such_address", "There is nothing at this address."),
        415 => Of(415, "media_type", "A body is sent as application/json."),
        _ => Of(status, "refused", "The request was refused."),
    };

    /// <summary>The last of all addresses below a path. As a plain delegate: what is generated for others at the build forgets that a fallback comes last.</summary>
    public static Task NoSuchAddress(HttpContext http) => OfStatus(404).ExecuteAsync(http);

    public static IResult NotFound(string code, string detail) => Of(404, code, detail);

    /// <summary>How long whoever met a database that is away waits before they ask again, in seconds.</summary>
    public const int AwaySeconds = 5;

    private static IResult DatabaseAway => Of(503, "database_away", "The database cannot be reached just now. Try again in a moment.");

    /// <summary>The answer to an exception; null when it is a fault of ours.</summary>
    public static IResult? For(Exception exception, ServerSettings settings) => exception switch
    {
        InvalidInputException e => Of(422, e.Code, e.Message, e.Field),
        NotFoundException e => Of(404, e.Code, e.Message),
        NotAllowedException e => Of(403, "not_allowed", e.Message),
        StaleWriteException e => Of(409, "stale_version", "Somebody changed this meanwhile. Both versions are kept: choose one.", current: e.Current switch
        {
            EventView current => EventDto.Of(current),
            Calendar current => CalendarDto.Of(current),
            SchoolYear current => SchoolYearDto.Of(current),
            SchoolLists current => ListsDto.Of(current),
            Publication current => PublicationDto.Of(current, settings),
            _ => null,
        }),
        TakenException => Of(409, "key_taken", "This key is taken. Choose another one.", "key"),
        TooOftenException e => Of(429, "too_often", e.Message),
        TooLargeException e => Of(413, "file_too_large", e.Message, "name"),
        // Class 22 of SQLSTATE, for example a NUL character or a date beyond the calendar's: what was sent is nothing a database holds.
        PostgresException { SqlState: ['2', '2', ..] } => Of(422, "not_storable", "Something in this cannot be kept: a character no text has, or a number or date out of all bounds. Nothing was changed."),
        PostgresException { SqlState: PostgresErrorCodes.DiskFull } => Of(507, "no_room", "There is no room left on the disk of the database. Nothing was changed; tell whoever runs the server."),
        PoolEmptyException => Of(503, "database_busy", "The database has more to do than it can. Try again in a moment."),
        _ when DatabaseAwayException.Is(exception) => DatabaseAway,
        BadHttpRequestException { StatusCode: 413 } => Of(413, "body_too_large", "The request is too large."),
        BadHttpRequestException { InnerException: MissingPartException e } => Of(400, "body_malformed", "The request could not be read: " + e.Message, e.Part),
        BadHttpRequestException { InnerException: JsonException { Path: { } path } } => Of(400, "body_malformed", "The request could not be read.", path.TrimStart('$', '.')),
        BadHttpRequestException => Of(400, "body_malformed", "The request could not be read."),
        _ => null,
    };
}

/// <summary>Turns exceptions into problem details. What is a fault of ours is logged and says nothing about the inside.</summary>
internal sealed class ProblemHandler(ServerSettings settings, OutletRenderer outlets, Telemetry telemetry, ILogger<ProblemHandler> log) : IExceptionHandler
{
    private const int OneLineMilliseconds = 1_000;

    private long toldAt = long.MinValue / 2;
    private int untold;

    public async ValueTask<bool> TryHandleAsync(HttpContext http, Exception exception, CancellationToken cancellation)
    {
        if (exception is TooOftenException { Seconds: var seconds })
            http.Response.Headers.RetryAfter = seconds.ToString(System.Globalization.CultureInfo.InvariantCulture);
        var result = Problems.For(exception, settings);
        var isAway = result is IStatusCodeHttpResult { StatusCode: 503 or 507 };
        if (isAway)
        {
            http.Response.Headers.RetryAfter = Problems.AwaySeconds.ToString(System.Globalization.CultureInfo.InvariantCulture);
            telemetry.Refused(exception is PoolEmptyException ? "busy" : exception is PostgresException { SqlState: PostgresErrorCodes.DiskFull } ? "no_room" : "away");
            TellAway(exception);
        }
        // Refused as somebody's input, and yet told here: it should have been seen before the database was asked.
        if (exception is PostgresException && result is not null && !isAway)
            log.LogWarning(exception, "{Method} {Path} sent what cannot be kept", http.Request.Method, http.Request.Path);
        if (result is null)
        {
            log.LogError(exception, "{Method} {Path} failed", http.Request.Method, http.Request.Path);
            result = Problems.Of(500, "failed", "Something went wrong on our side. Nothing was changed; try again.");
        }
        // People meet outlets' faults on pages of their school's website.
        if (OutletEndpoints.IsForPeople(http))
            result = await outlets.FaultAsync(http, (result as IStatusCodeHttpResult)?.StatusCode ?? StatusCodes.Status500InternalServerError);
        await result.ExecuteAsync(http);
        return true;
    }

    // One line a second, however many ask.
    private void TellAway(Exception exception)
    {
        Interlocked.Increment(ref untold);
        var (now, before) = (Environment.TickCount64, Volatile.Read(ref toldAt));
        if (now - before >= OneLineMilliseconds && Interlocked.CompareExchange(ref toldAt, now, before) == before)
            log.LogWarning("{Count} requests found no database, or none that could: {Message}", Interlocked.Exchange(ref untold, 0), exception.Message);
    }
}
