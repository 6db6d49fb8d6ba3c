using Microsoft.AspNetCore.Mvc;
using NodaTime;
using Valtro.Core.Files;
using Valtro.Core.People;
using Valtro.Core.Sources;
using Valtro.Server.Audit;
using Valtro.Server.Commands;
using Valtro.Server.Sessions;
using Valtro.Store;

namespace Valtro.Server.Sources;

/// <summary>A column of a table.</summary>
internal sealed record ColumnDto(string Header, TableColumn Meaning, IReadOnlyList<string> Samples);

/// <summary>A file that lies ready, with what bringing it in would do.</summary>
/// <param name="Id">What it is known by until it is brought in.</param>
/// <param name="Name">Its name.</param>
/// <param name="Size">Bytes.</param>
/// <param name="Form">What form it is of.</param>
/// <param name="Columns">For a table its columns.</param>
/// <param name="What">What it would do.</param>
internal sealed record LaidOutDto(Guid Id, string Name, long Size, SourceForm Form, IReadOnlyList<ColumnDto>? Columns, BringingDto What);

/// <summary>A file that was brought in.</summary>
internal sealed record BroughtDto(Guid Id, Instant At, string? Person, string Name, long Size, int Added, int Changed, int Same, int Gone, int LeftOut, IReadOnlyList<Guid> CalendarIds);

/// <summary>Files are laid ready, looked at as often as one likes, and brought in as one step.</summary>
internal static class BringingEndpoints
{
    public static void MapBringing(this IEndpointRouteBuilder api)
    {
        var bringing = api.MapGroup("/bringing");

        bringing.MapGet("", async (Caller caller, Store.Sources store) =>
        {
            var may = await caller.AccessAsync();
            Guid[] own = [.. (await caller.CalendarsAsync()).Keys.Where(c => may.Has(c, CalendarRole.Editor))];
            // Of a file that came to several calendars they are told those that are theirs.
            return (await store.BroughtAsync(caller.SchoolId, own))
                .Select(b => new BroughtDto(b.Id, b.At, b.Person, b.Name, b.Size, b.Added, b.Changed, b.Same, b.Gone, b.LeftOut, [.. b.CalendarIds.Intersect(own)])).ToArray();
        });

        // The contents are the body, as of other files.
        bringing.MapPost("", async (string? name, HttpContext http, Caller caller, Store.Sources store, BringIn bringIn, ReadFiles files) =>
        {
            await NeedEditorAsync(caller);
            var file = new LaidOut(Guid.CreateVersion7(), FileKind.CleanName(name), await ReceiveAsync(http));
            var shown = await ShownAsync(file, new BringingInput(), caller, store, bringIn, files);
            await store.LayOutAsync(file, caller.Author());
            return shown;
        }).WithMetadata(new DisableRequestSizeLimitAttribute()).IsNotLogged();

        bringing.MapPost("/{id:guid}/look", async (Guid id, BringingInput input, Caller caller, Store.Sources store, BringIn bringIn, ReadFiles files) =>
        {
            await NeedEditorAsync(caller);
            var file = await store.FindLaidOutAsync(caller.SchoolId, caller.PersonId, id) ?? throw Missing();
            return await ShownAsync(file, input, caller, store, bringIn, files);
        }).IsNotLogged();

        bringing.MapPost("/{id:guid}", async (Guid id, BringingInput input, Caller caller, Store.Sources store, BringIn bringIn, ReadFiles files) =>
        {
            await NeedEditorAsync(caller);
            var file = await store.FindLaidOutAsync(caller.SchoolId, caller.PersonId, id) ?? throw Missing();
            var read = await files.ReadAsync(file, input.Columns, caller, store);
            var done = await bringIn.DoAsync(file.Name, file.Body.Length, read.Calendar, input);
            if (read.Columns is { } columns)
                await store.KeepShapeAsync(columns.Shape, columns.Meanings, caller.Author());
            return done;
        });

        bringing.MapDelete("/{id:guid}", async (Guid id, Caller caller, Store.Sources store) =>
        {
            await store.ClearAsync(caller.SchoolId, caller.PersonId, id);
            return TypedResults.NoContent();
        }).IsNotLogged();
    }

    private static NotFoundException Missing() => new("no_such_bringing", "This file does not lie ready any more. Choose it once more.");

    private static async Task NeedEditorAsync(Caller caller)
    {
        var may = await caller.AccessAsync();
        if (!(await caller.CalendarsAsync()).Keys.Any(may.MayEdit))
            throw new NotAllowedException("Only people who keep the events of a calendar may do this.");
    }

    private static async Task<LaidOutDto> ShownAsync(LaidOut file, BringingInput input, Caller caller, Store.Sources store, BringIn bringIn, ReadFiles files)
    {
        var read = await files.ReadAsync(file, input.Columns, caller, store);
        return new LaidOutDto(
            file.Id, file.Name, file.Body.Length, read.Form,
            read.Columns is not { } columns ? null : [.. columns.Header.Select((h, i) => new ColumnDto(h, columns.Meanings[i], columns.Samples[i]))],
            await bringIn.LookAsync(file.Name, read.Calendar, input));
    }

    private static async Task<byte[]> ReceiveAsync(HttpContext http)
    {
        if (http.Request.ContentLength > CalendarReader.MaxBytes)
            throw TooLarge();
        using var body = new MemoryStream();
        var buffer = new byte[1 << 16];
        for (int length; (length = await http.Request.Body.ReadAsync(buffer, http.RequestAborted)) > 0;)
        {
            if (body.Length + length > CalendarReader.MaxBytes)
                throw TooLarge();
            body.Write(buffer, 0, length);
        }
        return body.Length > 0 ? body.ToArray() : throw new InvalidInputException("file_empty", "name", "The file is empty.");
    }

    private static InvalidInputException TooLarge() => new("file_too_large", "name", $"A file has {CalendarReader.MaxBytes / 1_000_000} MB at most.");
}

/// <summary>Reads files that lie ready; the last few stay read while they are looked at.</summary>
internal sealed class ReadFiles
{
    private const int Kept = 4;

    private readonly Lock gate = new();
    private readonly LinkedList<(string Key, SourceFile File)> last = new();

    /// <summary>A file as it is read for somebody.</summary>
    public async Task<SourceFile> ReadAsync(LaidOut file, IReadOnlyList<TableColumn>? columns, Caller caller, Store.Sources store)
    {
        var school = await caller.SchoolAsync();
        var context = new TableContext(school.Zone, await caller.TodayAsync()) { MonthFirst = (await caller.ListsAsync()).IsMonthFirst, CycleLength = (await caller.DaysAsync()).Year(await caller.TodayAsync()).CycleLength };
        var key = $"{file.Id} {context.Today} {context.MonthFirst} {string.Join(',', columns ?? [])}";
        lock (gate)
        {
            if (last.FirstOrDefault(l => l.Key == key).File is { } known)
                return known;
        }
        var read = SourceFile.Read(file.Body, context, columns);
        // A table of a shape one has brought in before is read as then.
        if (columns is null && read.Columns is { } own && await store.ShapeAsync(caller.SchoolId, caller.PersonId, own.Shape) is { } remembered && remembered.Count == own.Meanings.Length)
            read = SourceFile.Read(file.Body, context, remembered);
        lock (gate)
        {
            last.AddFirst((key, read));
            while (last.Count > Kept)
                last.RemoveLast();
        }
        return read;
    }
}
