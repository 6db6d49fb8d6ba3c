using System.Collections.Concurrent;
using System.Globalization;
using System.Net;
using System.Security.Cryptography;
using System.Text;

/// <summary>
/// A learning platform's courses with what is due in them, and its feeds: one a course, and one that joins all courses of a
/// teacher, where only the brackets in the title tell which.
/// </summary>
internal static class Platform
{
    private static readonly (string Id, string Name)[] Courses = [("rigging-2", "Rigging 2"), ("navigation-2a", "Navigation 2A")];

    private static readonly ConcurrentDictionary<string, Assignment> All = new();

    public static void MapPlatform(this WebApplication app, Func<string, string> page)
    {
        var today = DateOnly.FromDateTime(DateTime.UtcNow);
        foreach (var (course, title, days, hour) in new[]
        {
            ("rigging-2", "Splice journal", 9, 23), ("rigging-2", "Mast drawing", 16, 15), ("rigging-2", "Block and tackle report", 30, 23),
            ("navigation-2a", "Tide table", 8, 23), ("navigation-2a", "Chart of the inlet", 15, 12), ("navigation-2a", "Star log", 29, 23),
        })
        {
            var id = $"{course}-{title.ToLowerInvariant().Replace(' ', '-')}";
            All[id] = new Assignment(id, course, title, today.AddDays(days).ToDateTime(new TimeOnly(hour, hour == 23 ? 59 : 0)), 1);
        }

        app.MapGet("/platform", () => Results.Content(page("platform.html").Replace("{{courses}}", string.Join("", Courses.Select(CourseHtml))), "text/html; charset=utf-8"));
        app.MapPost("/platform/assignments", async (HttpRequest request) =>
        {
            var form = await request.ReadFormAsync();
            var (title, course) = (form["title"].ToString().Trim(), form["course"].ToString());
            if (title.Length > 0 && Courses.Any(c => c.Id == course) && DateTime.TryParse(form["due"], CultureInfo.InvariantCulture, out var due))
            {
                var id = Guid.NewGuid().ToString("N");
                All[id] = new Assignment(id, course, title, due, 1);
            }
            return Results.Redirect("/platform");
        });
        app.MapPost("/platform/assignments/{id}", async (string id, HttpRequest request) =>
        {
            var form = await request.ReadFormAsync();
            if (form["do"] == "delete")
                All.TryRemove(id, out _);
            else if (All.TryGetValue(id, out var known) && DateTime.TryParse(form["due"], CultureInfo.InvariantCulture, out var due))
                All[id] = known with { Due = due, Version = known.Version + 1 };
            return Results.Redirect("/platform");
        });
        app.MapGet("/platform/feeds/all.ics", (HttpContext http) => Feed(http, "All my courses", All.Values, isJoined: true));
        app.MapGet("/platform/feeds/{course}.ics", (HttpContext http, string course) =>
            Courses.FirstOrDefault(c => c.Id == course) is { Id: not null } known ? Feed(http, known.Name, All.Values.Where(a => a.Course == course), isJoined: false) : Results.NotFound());
    }

    private static string CourseHtml((string Id, string Name) course)
    {
        var rows = string.Concat(All.Values.Where(a => a.Course == course.Id).OrderBy(a => a.Due).Select(a =>
            $"""
            <tr><th scope="row">{WebUtility.HtmlEncode(a.Title)}</th>
            <td><form method="post" action="/platform/assignments/{a.Id}"><label>Due <input type="datetime-local" name="due" value="{a.Due:yyyy-MM-dd'T'HH:mm}" aria-label="{WebUtility.HtmlEncode(a.Title)} is due"></label> <button name="do" value="move">Move</button> <button name="do" value="delete">Delete {WebUtility.HtmlEncode(a.Title)}</button></form></td></tr>
            """));
        return $"""
            <section aria-label="{course.Name}"><h2>{course.Name}</h2><table>{rows}</table>
            <form method="post" action="/platform/assignments"><input type="hidden" name="course" value="{course.Id}">
            <label>New assignment <input name="title"></label> <label>Due <input type="datetime-local" name="due"></label> <button>Add to {course.Name}</button></form>
            <p><a href="/platform/feeds/{course.Id}.ics">Feed of this course</a></p></section>
            """;
    }

    private static IResult Feed(HttpContext http, string name, IEnumerable<Assignment> assignments, bool isJoined)
    {
        var lines = new StringBuilder();
        void Line(string text) => lines.Append(text).Append("\r\n");
        static string Text(string text) => text.Replace("\\", "\\\\").Replace(";", "\\;").Replace(",", "\\,");
        Line("BEGIN:VCALENDAR");
        Line("VERSION:2.0");
        Line("PRODID:-//Made up//Courses//EN");
        Line($"X-WR-CALNAME:{Text(name)}");
        Line("X-PUBLISHED-TTL:PT30M");
        foreach (var a in assignments.OrderBy(a => a.Id, StringComparer.Ordinal))
        {
            Line("BEGIN:VTODO");
            Line($"UID:{a.Id}@courses.example");
            Line("DTSTAMP:20260801T000000Z");
            Line($"SEQUENCE:{a.Version}");
            Line($"DUE;TZID=America/Halifax:{a.Due:yyyyMMdd'T'HHmmss}");
            Line($"SUMMARY:{Text(a.Title)}{(isJoined ? $" [{Courses.First(c => c.Id == a.Course).Name}]" : "")}");
            Line("END:VTODO");
        }
        Line("END:VCALENDAR");
        var bytes = Encoding.UTF8.GetBytes(lines.ToString());
        var tag = $"\"{Convert.ToHexStringLower(SHA256.HashData(bytes))[..16]}\"";
        http.Response.Headers.ETag = tag;
        return http.Request.Headers.IfNoneMatch == tag ? Results.StatusCode(304) : Results.Bytes(bytes, "text/calendar; charset=utf-8");
    }

    private sealed record Assignment(string Id, string Course, string Title, DateTime Due, int Version);
}
