using Dapper;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Http;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Logging;
using Valtro.Server.Links;
using Valtro.Server.Outside;
using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

/// <summary>What an outsider gets when opening a link, and never a look into the network the server stands in.</summary>
public sealed class LinkTests(Cluster cluster) : IAsyncLifetime
{
    private WebApplication outside = null!;
    private Server server = null!;
    private bool isOpen;

    public async ValueTask InitializeAsync()
    {
        var builder = WebApplication.CreateSlimBuilder();
        builder.Logging.ClearProviders();
        builder.WebHost.UseUrls("http://127.0.0.1:0");
        outside = builder.Build();
        outside.MapGet("/open", () => "Welcome");
        outside.MapGet("/here", () => Results.Redirect("/open"));
        outside.MapGet("/members", () => isOpen ? Results.Text("Welcome") : Results.Redirect("/sign-in?back=members"));
        outside.MapGet("/sign-in", () => "Who are you?");
        outside.MapGet("/refused", () => Results.StatusCode(403));
        outside.MapGet("/broken", () => Results.StatusCode(500));
        outside.MapGet("/round", () => Results.Redirect("/round"));
        outside.MapGet("/inside", () => Results.Redirect("http://127.0.0.1:1/secret"));
        outside.MapGet("/inside-by-name", () => Results.Redirect("http://localhost:1/secret"));
        await outside.StartAsync();
        server = new Server(await cluster.CreateEmptyDatabaseAsync(), standIns: outside.Urls.Single());
    }

    public async ValueTask DisposeAsync()
    {
        await server.DisposeAsync();
        await outside.DisposeAsync();
    }

    [Fact]
    public async Task Each_link_is_opened_as_an_outsider_would()
    {
        var client = await server.SignedInAsync();
        string[] paths = ["open", "here", "members", "sign-in", "refused", "broken", "round", "inside", "inside-by-name", "nowhere"];
        var tried = await client.PostAsync("/api/links/check", new { addresses = paths.Select(p => "https://ropes.example/" + p) });
        Assert.Equal(
            ["open", "open", "signIn", "open", "signIn", "noAnswer", "noAnswer", "inside", "inside", "missing"],
            tried.AsArray().Select(t => t!.Text("outcome")));
        await client.PostAsJsonAsync("/api/links/check", new { addresses = new[] { "javascript:alert(1)" } }).ProblemAsync(422, "link_malformed");
        await client.PostAsJsonAsync("/api/links/check", new { addresses = Array.Empty<string>() }).ProblemAsync(422, "too_many_links");
    }

    [Fact]
    public async Task A_link_that_cannot_be_noted_keeps_no_other_from_being_tried()
    {
        var client = await server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Many links");
        await using var db = new Npgsql.NpgsqlConnection(server.Database);
        // One that the database does not take for a reason of its own.
        await db.ExecuteAsync("alter table link_check add check (address not like '%?1')");
        for (var i = 0; i < 3; i++)
        {
            var facts = new { links = new[] { new { kind = "more", label = "", address = $"https://ropes.example/open?{i}" } } };
            await client.PostAsync("/api/events", new { calendarId = calendar.Text("id"), title = $"Rope sale {i}", place = "", description = "", timing = AllDay("2026-12-12", "2026-12-12"), facts });
        }
        // As it could be kept before, longer than any index takes.
        var random = new Random(3);
        var longer = string.Concat(Enumerable.Range(0, 9_000).Select(_ => (char)('a' + random.Next(26))));
        await db.ExecuteAsync("""update event set facts = jsonb_set(facts, '{links,0,address}', to_jsonb('https://ropes.example/' || @longer)) where title = 'Rope sale 0'""", new { longer });
        var keeper = server.Services.GetServices<Jobs.IJob>().OfType<LinkKeeper>().Single();
        var failed = await Assert.ThrowsAsync<AggregateException>(() => keeper.RunAsync(TestContext.Current.CancellationToken));
        Assert.Single(failed.InnerExceptions);
        Assert.Equal(["https://ropes.example/open?2"], await db.QueryAsync<string>("select address from link_check where address like '%open?1' or address like '%open?2'"));
    }

    [Fact]
    public async Task A_link_that_outsiders_cannot_open_is_a_clash_until_it_opens()
    {
        var client = await server.SignedInAsync();
        var calendar = await client.NewCalendarAsync("Links");
        object Body(string address) => new
        {
            calendarId = calendar.Text("id"),
            title = "Rope sale",
            place = "",
            description = "",
            timing = AllDay("2026-12-12", "2026-12-12"),
            facts = new { links = new[] { new { kind = "more", label = "", address } } },
        };
        await client.PostAsync("/api/events", Body("https://ropes.example/members"));
        async Task<JsonNode?> FoundAsync() => (await client.GetJsonAsync("/api/checks"))["clashes"]!.AsArray().FirstOrDefault(c => c!["event"]!.Text("title") == "Rope sale");
        Assert.Null(await FoundAsync());
        await client.PostAsync("/api/links/check", new { addresses = new[] { "https://ropes.example/members" } });
        var clash = (await FoundAsync())!;
        Assert.Equal(("linkClosed", "https://ropes.example/members"), (clash.Text("kind"), clash.Text("about")));
        // What is typed is told at once, whoever tried it.
        var typed = await client.PostAsync("/api/checks/event", new Dictionary<string, object?> { ["event"] = Body("https://ropes.example/members"), ["id"] = null });
        Assert.Contains(typed["clashes"]!.AsArray(), c => c!.Text("kind") == "linkClosed");
        isOpen = true;
        await client.PostAsync("/api/links/check", new { addresses = new[] { "https://ropes.example/members" } });
        Assert.Null(await FoundAsync());
    }
}

/// <summary>Which addresses the server may ask.</summary>
public sealed class AddressTests
{
    [Theory]
    [InlineData("127.0.0.1")]
    [InlineData("10.1.2.3")]
    [InlineData("172.31.0.1")]
    [InlineData("192.168.1.1")]
    [InlineData("169.254.169.254")]
    [InlineData("100.64.0.1")]
    [InlineData("0.0.0.0")]
    [InlineData("255.255.255.255")]
    [InlineData("::1")]
    [InlineData("::ffff:10.0.0.1")]
    [InlineData("fe80::1")]
    [InlineData("fd00::1")]
    [InlineData("2002:7f00:1::")]
    [InlineData("64:ff9b::7f00:1")]
    public void Addresses_inside_of_networks_are_known(string address) => Assert.True(OutsideClient.IsInside(IPAddress.Parse(address)));

    [Theory]
    [InlineData("8.8.8.8")]
    [InlineData("172.32.0.1")]
    [InlineData("100.128.0.1")]
    [InlineData("2600::1")]
    public void Addresses_outside_are_asked(string address) => Assert.False(OutsideClient.IsInside(IPAddress.Parse(address)));
}
