using System.Text.Json.Nodes;
using Valtro.Cli;

namespace Valtro.Core.Tests;

public class ExpandCommandTests
{
    private static JsonNode[] Run(params string[] lines)
    {
        using var output = new StringWriter();
        ExpandCommand.Run(new StringReader(string.Join('\n', lines)), output);
        return [.. output.ToString().Split('\n', StringSplitOptions.RemoveEmptyEntries).Select(l => JsonNode.Parse(l)!)];
    }

    private static string[] Starts(JsonNode answer) => [.. answer["starts"]!.AsArray().Select(s => s!.GetValue<string>())];

    [Fact]
    public void Zoned_starts_come_with_their_offset_over_the_change_of_the_clocks()
    {
        var answer = Assert.Single(Run(
            """{"id":7,"start":"2026-10-29T09:00:00","zone":"America/Halifax","rule":"FREQ=DAILY","exdates":["2026-10-30T09:00:00"],"rdates":["2026-11-01T12:00:00Z"],"from":"2026-10-29T12:00:00Z","to":"2026-11-02T13:00:00Z"}"""));
        Assert.Equal(7, answer["id"]!.GetValue<int>());
        Assert.Equal(
            ["2026-10-29T09:00:00-03:00", "2026-10-31T09:00:00-03:00", "2026-11-01T08:00:00-04:00", "2026-11-01T09:00:00-04:00"],
            Starts(answer));
    }

    [Fact]
    public void Dates_stay_dates_and_floating_times_stay_on_the_clock()
    {
        var answers = Run(
            """{"id":"d","start":"2026-09-01","rule":["FREQ=MONTHLY;BYMONTHDAY=-1","FREQ=YEARLY"],"from":"2026-09-01","to":"2026-12-31"}""",
            """{"id":"f","start":"2026-09-01T09:00:00","zone":null,"rule":"FREQ=HOURLY;INTERVAL=5","from":"2026-09-01T10:00:00","limit":2}""",
            """{"id":"one","start":"2026-09-01T09:00:00"}""");
        Assert.Equal(["2026-09-01", "2026-09-30", "2026-10-31", "2026-11-30"], Starts(answers[0]));
        Assert.Equal(["2026-09-01T14:00:00", "2026-09-01T19:00:00"], Starts(answers[1]));
        Assert.Equal(["2026-09-01T09:00:00"], Starts(answers[2]));
    }

    [Theory]
    [InlineData("nonsense", "line_malformed")]
    [InlineData("[1]", "line_malformed")]
    [InlineData("""{"id":1}""", "field_malformed")]
    [InlineData("""{"id":1,"start":"soon"}""", "field_malformed")]
    [InlineData("""{"id":1,"start":5}""", "field_malformed")]
    [InlineData("""{"id":1,"start":"2026-09-01T09:00:00","zone":"Mars/Base"}""", "zone_unknown")]
    [InlineData("""{"id":1,"start":"2026-09-01","zone":"Europe/Paris"}""", "zone_with_date")]
    [InlineData("""{"id":1,"start":"2026-09-01","rule":"FREQ=WEEKLY;BYMONTHDAY=1"}""", "rule_contradiction")]
    [InlineData("""{"id":1,"start":"2026-09-01","rule":[1]}""", "field_malformed")]
    [InlineData("""{"id":1,"start":"2026-09-01","from":"2026-09-01","to":"2026-09-01"}""", "window_empty")]
    [InlineData("""{"id":1,"start":"2026-09-01T09:00:00","rule":"FREQ=SECONDLY"}""", "too_many_dates")]
    [InlineData("""{"id":1,"start":"2026-09-01","limit":-1}""", "field_malformed")]
    public void A_bad_line_gives_an_error_line_and_the_rest_goes_on(string line, string code)
    {
        var answers = Run(line, """{"id":"after","start":"2026-09-01"}""");
        Assert.Equal(code, answers[0]["error"]!["code"]!.GetValue<string>());
        Assert.Equal(["2026-09-01"], Starts(answers[1]));
    }
}
