extern alias cli;

using cli::Valtro.Cli;
using Dapper;
using Valtro.Core;
using static Valtro.Server.Tests.Asking;

namespace Valtro.Server.Tests;

/// <summary>What is done from the command line: a school, its first administrator, rescue, backup.</summary>
public sealed class AdminTests(Cluster cluster)
{
    private static Options With(string database, params string[] args) => new([.. args, "--database", Server.AppOf(database), "--owner-database", database]);

    private static string SecretIn(StringWriter told) => told.ToString().Trim().Split('#')[1];

    [Fact]
    public async Task A_school_is_made_and_its_administrator_comes_in_by_the_link()
    {
        var database = await cluster.CreateEmptyDatabaseAsync();
        using var told = new StringWriter();
        await AdminCommands.CreateSchoolAsync(With(database, "school", "create", "--name", "Tidewater School", "--short", "Tidewater", "--zone", "Europe/Dublin", "--admin", "ann@tidewater.example"), told);
        await using var server = new Server(database, demo: false);
        var ann = server.Visitor();
        // The links of the command line run by the machine's own clock.
        server.Clock.Now = SystemClock.Instance.GetCurrentInstant();
        var accepted = await ann.PostAsJsonAsync("/api/invitation/accept", new { token = SecretIn(told), name = "Ann", password = "three small words" });
        Assert.Equal(HttpStatusCode.NoContent, accepted.StatusCode);
        var session = await ann.GetJsonAsync("/api/session");
        Assert.Equal(("administrator", "Tidewater School", "Europe/Dublin"), (session["person"]!.Text("role"), session["school"]!.Text("name"), session["school"]!.Text("zone")));

        using var reset = new StringWriter();
        await AdminCommands.ResetAsync("ann@tidewater.example", With(database), reset);
        Assert.Equal(HttpStatusCode.NoContent, (await server.Visitor().PostAsJsonAsync("/api/new-password", new { token = SecretIn(reset), password = "another long one" })).StatusCode);
        await server.SignedInAsync("ann@tidewater.example", "another long one");

        using var second = new StringWriter();
        await AdminCommands.InviteAsync("ben@tidewater.example", With(database), second);
        Assert.Equal("ben@tidewater.example", (await server.Visitor().PostAsync("/api/invitation", new { token = SecretIn(second) })).Text("email"));
        using var list = new StringWriter();
        await AdminCommands.ListAsync(With(database), list);
        Assert.Contains("administrator ann@tidewater.example  Ann", list.ToString());
        var nobody = await Assert.ThrowsAsync<InvalidInputException>(() => AdminCommands.ResetAsync("nobody@tidewater.example", With(database), list));
        Assert.Equal("no_such_person", nobody.Code);
    }

    [Fact]
    public void Options_that_are_not_said_are_told()
    {
        Assert.Equal("option_missing", Assert.Throws<InvalidInputException>(() => new Options(["school", "--name"])).Code);
        Assert.Equal("option_missing", Assert.Throws<InvalidInputException>(() => new Options(["school"]).Need("name")).Code);
        Assert.Equal("no_database", Assert.Throws<InvalidInputException>(() => new Options(["backup", "f", "--data", "/nowhere"]).Database()).Code);
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public async Task A_backup_restored_into_an_empty_server_gives_every_outlet_byte_for_byte(bool isPlain)
    {
        var database = await cluster.CreateEmptyDatabaseAsync(isPlain);
        await using var server = new Server(database);
        var client = await server.SignedInAsync();
        var file = await (await client.PostAsync("/api/files?name=slip.txt", new StringContent("A slip"))).JsonAsync();
        var calendar = await client.OpenAsync(await client.NewCalendarAsync("Backed up"));
        await client.PostAsync("/api/events", new { calendarId = calendar.Text("id"), title = "Keel", place = "", description = "", timing = AllDay("2026-12-01", "2026-12-01"), facts = new { files = new[] { file } } });
        await client.PublishAsync("backed-up", calendar);
        string[] outlets =
        [
            .. new[] { "lanternfell", "families", "backed-up" }.SelectMany(k => new[] { $"/p/{k}", $"/p/{k}/embed", $"/p/{k}/embed?view=upcoming", $"/p/{k}/feed.ics", $"/p/{k}/events.json?from=2026-11-01&to=2027-02-01" }),
            $"/p/backed-up/files/{file.Text("id")}/slip.txt",
        ];

        var path = Path.Combine(Scratch.Folder("backup"), "all.valtro");
        Backup.Write(path, database, TextWriter.Null);
        var empty = await cluster.CreateEmptyDatabaseAsync(isPlain);
        Backup.Read(path, empty, TextWriter.Null);
        await using var restored = new Server(empty);
        foreach (var outlet in outlets)
        {
            var (was, now) = (await server.Visitor().GetAsync(outlet), await restored.Visitor().GetAsync(outlet));
            Assert.Equal((HttpStatusCode.OK, HttpStatusCode.OK), (was.StatusCode, now.StatusCode));
            Assert.Equal(was.Headers.ETag, now.Headers.ETag);
            Assert.Equal(await was.Content.ReadAsByteArrayAsync(), await now.Content.ReadAsByteArrayAsync());
        }
        var there = await restored.SignedInAsync();
        Assert.NotEmpty((await there.GetJsonAsync("/api/board?from=2026-11-23&to=2026-12-07"))["occurrences"]!.AsArray());
        // Nothing that is there is ever written over.
        Assert.Equal("not_empty", Assert.Throws<InvalidInputException>(() => Backup.Read(path, empty, TextWriter.Null)).Code);
        Assert.Equal("no_such_file", Assert.Throws<InvalidInputException>(() => Backup.Read(path + "x", empty, TextWriter.Null)).Code);
        Directory.Delete(Path.GetDirectoryName(path)!, recursive: true);
    }

    [Fact]
    public async Task A_backup_into_a_folder_is_read_back_and_compared_and_only_so_many_stay()
    {
        var database = await cluster.CreateDatabaseAsync();
        var folder = Path.Combine(Scratch.Folder("backups"), "nights");
        var night = Instant.FromUtc(2026, 11, 23, 2, 30);
        using var told = new StringWriter();
        for (var n = 0; n < 4; n++)
            await Backup.WriteCheckedAsync(folder, 2, database, night + Duration.FromDays(n), told);
        var kept = Directory.GetFiles(folder).Select(Path.GetFileName).Order(StringComparer.Ordinal);
        Assert.Equal(["valtro-20261125T023000Z.backup", "valtro-20261126T023000Z.backup"], kept);
        Assert.All(Directory.GetFiles(folder), f => Assert.Equal(UnixFileMode.UserRead | UnixFileMode.UserWrite, File.GetUnixFileMode(f)));
        Assert.Contains("read back and compared", told.ToString(), StringComparison.Ordinal);
        await using var db = new Npgsql.NpgsqlConnection(database);
        Assert.Equal(0, await db.ExecuteScalarAsync<int>("select count(*) from pg_database where datname like 'valtro_check_%'"));
        Assert.Equal("option_wrong", (await Assert.ThrowsAsync<InvalidInputException>(() => Backup.WriteCheckedAsync(folder, 0, database, night, told))).Code);

        // The doctor knows how old the last one is, and what else may be wrong.
        async Task<(int Code, string Said)> LookAsync(Instant now, params string[] more)
        {
            using var said = new StringWriter();
            var code = await new Doctor(new Options(["--owner-database", database, "--database", Server.AppOf(database), "--backups", folder, "--address", "http://127.0.0.1:4180", .. more]), new TestClock { Now = now }, said).RunAsync();
            return (code, said.ToString());
        }
        foreach (var file in Directory.GetFiles(folder))
            File.SetLastWriteTimeUtc(file, (night + Duration.FromDays(3)).ToDateTimeUtc());
        var (_, fine) = await LookAsync(night + Duration.FromDays(3) + Duration.FromHours(20));
        foreach (var matter in new[] { "ok    database ", "ok    schema ", "ok    role ", "ok    schools apart ", "ok    backups " })
            Assert.Contains(matter, fine, StringComparison.Ordinal);
        Assert.Contains("warn  backups ", (await LookAsync(night + Duration.FromDays(4) + Duration.FromHours(9))).Said, StringComparison.Ordinal);
        Assert.Equal(2, (await LookAsync(night + Duration.FromDays(9))).Code);
        await db.ExecuteAsync("alter table calendar no force row level security; insert into schemaversions (scriptname, applied) values ('Valtro.Store.Migrations.9999_later.sql', now())");
        var (code, wrong) = await LookAsync(night + Duration.FromDays(3));
        Assert.Equal(2, code);
        Assert.Contains("bad   schools apart   not forced on calendar", wrong, StringComparison.Ordinal);
        Assert.Contains("bad   schema          of a newer version", wrong, StringComparison.Ordinal);
        Assert.Equal(2, (await LookAsync(night, "--database", "Host=127.0.0.1;Port=1;Database=valtro;Username=nobody")).Code);
    }

    [Fact]
    public async Task A_school_is_given_limits_of_its_own_and_back_to_the_usual_ones()
    {
        var database = await cluster.CreateDatabaseAsync();
        async Task<string> SayAsync(params string[] args)
        {
            using var said = new StringWriter();
            await AdminCommands.LimitAsync(Valtro.Demo.DemoSchool.ShortName, With(database, args), said);
            return said.ToString();
        }
        Assert.DoesNotMatch(@"of \d", await SayAsync());
        Assert.Matches(@"events +\d+ of 5,000\n", await SayAsync("--events", "5000", "--mails", "0"));
        // What is not named stays.
        Assert.Matches(@"events +\d+ of what all may have\n(.*\n)*mails in a day +\d+ of 0\n", await SayAsync("--events", "usual"));
        Assert.Equal("limit", (await Assert.ThrowsAsync<InvalidInputException>(() => SayAsync("--events", "many"))).Code);
        await Assert.ThrowsAsync<InvalidInputException>(() => AdminCommands.LimitAsync("Nowhere", With(database), TextWriter.Null));
    }
}
