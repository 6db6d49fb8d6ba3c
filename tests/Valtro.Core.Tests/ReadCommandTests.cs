using System.Text;
using System.Text.Json.Nodes;
using Valtro.Cli;

namespace Valtro.Core.Tests;

public class ReadCommandTests
{
    private static (int Exit, JsonNode[] Lines) Run(string file, string? zone = null, string? from = null, string? to = null)
    {
        using var output = new StringWriter();
        var exit = ReadCommand.Run(new MemoryStream(Encoding.UTF8.GetBytes(file)), output, zone, from, to);
        return (exit, [.. output.ToString().Split('\n', StringSplitOptions.RemoveEmptyEntries).Select(l => JsonNode.Parse(l)!)]);
    }

    private const string File = """
        BEGIN:VCALENDAR
        NAME:Harbour
        BEGIN:VEVENT
        UID:row
        SUMMARY:Night row
        DTSTART;TZID=America/Halifax:20261103T213000
        DTEND;TZID=America/Halifax:20261104T003000
        RRULE:FREQ=WEEKLY;COUNT=2
        END:VEVENT
        BEGIN:VEVENT
        UID:row
        RECURRENCE-ID;TZID=America/Halifax:20261110T213000
        STATUS:CANCELLED
        DTSTART;TZID=America/Halifax:20261110T213000
        DTEND;TZID=America/Halifax:20261111T003000
        END:VEVENT
        BEGIN:VTODO
        UID:essay
        SUMMARY:Essay
        DUE;VALUE=DATE:20261211
        END:VTODO
        BEGIN:VJOURNAL
        UID:log
        END:VJOURNAL
        END:VCALENDAR
        """;

    [Fact]
    public void A_file_is_a_line_an_event_and_a_last_one_that_tells_what_was_left()
    {
        var (exit, lines) = Run(File);
        Assert.Equal(0, exit);
        Assert.Equal(
            """{"uid":"row","title":"Night row","allDay":false,"zone":"America/Halifax","starts":["2026-11-03T21:30:00-04:00","2026-11-10T21:30:00-04:00"],"ends":["2026-11-04T00:30:00-04:00","2026-11-11T00:30:00-04:00"],"calledOff":["2026-11-10T21:30:00-04:00"],"due":null,"notes":[]}""",
            lines[0].ToJsonString());
        Assert.Equal("""{"uid":"essay","title":"Essay","allDay":true,"zone":null,"starts":["2026-12-11"],"ends":["2026-12-12"],"calledOff":[],"due":"2026-12-11","notes":[]}""", lines[1].ToJsonString());
        Assert.Equal("""{"name":"Harbour","events":2,"left":[{"what":"VJOURNAL","count":1}]}""", lines[2].ToJsonString());
        Assert.Equal("[\"2026-11-10T21:30:00-04:00\"]", Run(File, from: "2026-11-04", to: "2026-11-11").Lines[0]["starts"]!.ToJsonString());
    }

    [Fact]
    public void What_cannot_be_read_is_an_error_with_a_code()
    {
        var (exit, lines) = Run("<html>");
        Assert.Equal((1, "web_page"), (exit, (string?)Assert.Single(lines)["error"]!["code"]));
        Assert.Equal("zone_unknown", (string?)Run(File, zone: "Nowhere").Lines[0]["error"]!["code"]);
        Assert.Equal("date_malformed", (string?)Run(File, from: "soon").Lines[0]["error"]!["code"]);
    }
}
