using NodaTime;
using Valtro.Core;
using Valtro.Core.Events;
using Valtro.Core.Limits;
using Valtro.Core.People;
using Valtro.Core.Time;
using Valtro.Store;

namespace Valtro.Cli;

/// <summary>What is done beside the server: the first school and its administrator, rescue, backup.</summary>
internal static class AdminCommands
{
    /// <summary>Makes a school; its administrator comes in by the link this prints.</summary>
    public static async Task CreateSchoolAsync(Options options, TextWriter output)
    {
        var zone = Zones.Get(options.Need("zone"));
        var school = new School(Guid.CreateVersion7(), Texts.Title(options.Need("name"), "name", 200), Texts.Title(options.Need("short"), "short", 40), zone, options.Get("language") ?? "en");
        await using var db = Connect(options, migrate: true);
        var now = SystemClock.Instance.GetCurrentInstant();
        await new Schools(db).AddAsync(school, now);
        await InviteAsync(db, school, options.Need("admin"), options, now, output);
    }

    /// <summary>Sets how much one school may have, and says how much it has.</summary>
    public static async Task LimitAsync(string school, Options options, TextWriter output)
    {
        await using var db = Connect(options, migrate: false);
        var found = (await new Schools(db).ListAsync()).FirstOrDefault(s => s.ShortName == school) ?? throw new InvalidInputException("no_such_school", "school", "There is no school with this short name.");
        var limits = new Limits(db);
        var own = await limits.GetOwnAsync(found.Id);
        int? Set(string name, int? before) => options.Get(name) switch
        {
            null => before,
            "usual" => null,
            var text => int.TryParse(text, out var number) && number >= 0 ? number : throw new InvalidInputException("limit", name, $"--{name} takes a whole number, or “usual”."),
        };
        var set = new OwnLimits(Set("events", own.Events), Set("publications", own.Publications), Set("mb", own.Megabytes), Set("mails", own.MailsADay));
        if (set != own)
            await limits.SetOwnAsync(found.Id, set);
        var (_, taken, waiting) = await limits.GetAsync(found.Id, SystemClock.Instance.GetCurrentInstant());
        void Say(string what, long has, int? most) => output.WriteLine($"{what,-16} {has,10:N0} of {most?.ToString("N0", System.Globalization.CultureInfo.InvariantCulture) ?? "what all may have"}");
        Say("events", taken[Limited.Events], set.Events);
        Say("publications", taken[Limited.Publications], set.Publications);
        Say("MB of files", taken[Limited.Storage] / 1_000_000, set.Megabytes);
        Say("mails in a day", taken[Limited.Mails], set.MailsADay);
        if (waiting > 0)
            output.WriteLine($"{waiting} letters to readers wait.");
    }

    /// <summary>Invites an administrator into a school that is there.</summary>
    public static async Task InviteAsync(string email, Options options, TextWriter output)
    {
        await using var db = Connect(options, migrate: false);
        var schools = await new Schools(db).ListAsync();
        var school = schools.Count == 1 && options.Get("school") is null
            ? schools[0]
            : schools.FirstOrDefault(s => s.ShortName == options.Need("school")) ?? throw new InvalidInputException("no_such_school", "school", "There is no school with this short name.");
        await InviteAsync(db, school, email, options, SystemClock.Instance.GetCurrentInstant(), output);
    }

    /// <summary>Prints a link by which somebody sets a new password.</summary>
    public static async Task ResetAsync(string email, Options options, TextWriter output)
    {
        await using var db = Connect(options, migrate: false);
        var person = await new People(db).FindByEmailAsync(email) ?? throw new InvalidInputException("no_such_person", "email", "Nobody has this address.");
        var (secret, hash) = Secrets.New();
        var now = SystemClock.Instance.GetCurrentInstant();
        await new Invitations(db).AddResetAsync(person, hash, null, null, now);
        output.WriteLine($"{person.Name} sets a new password within two hours at:\n{Address(options)}/new-password#{secret}");
    }

    /// <summary>Turns somebody's second factor off.</summary>
    public static async Task UnlockAsync(string email, Options options, TextWriter output)
    {
        await using var db = Connect(options, migrate: false);
        var person = await new People(db).FindByEmailAsync(email) ?? throw new InvalidInputException("no_such_person", "email", "Nobody has this address.");
        output.WriteLine(await new Accounts(db).TurnFactorOffAsync(person.Id, Here.Nowhere, new Author(person.SchoolId, null, SystemClock.Instance.GetCurrentInstant())) ? $"{person.Name} signs in with the password alone now." : $"{person.Name} had no second factor.");
    }

    /// <summary>Lists who is of which school.</summary>
    public static async Task ListAsync(Options options, TextWriter output)
    {
        await using var db = Connect(options, migrate: false);
        foreach (var school in await new Schools(db).ListAsync())
        {
            output.WriteLine($"{school.ShortName}: {school.Name}, {school.Zone.Id}");
            foreach (var member in await new Members(db).ListAsync(school.Id))
                output.WriteLine($"  {member.Role.ToString().ToLowerInvariant(),-13} {member.Email}  {member.Name}");
        }
    }

    private static async Task InviteAsync(Connections db, School school, string email, Options options, Instant now, TextWriter output)
    {
        var (secret, hash) = Secrets.New();
        await new Invitations(db).AddAsync(email, SchoolRole.Administrator, hash, null, null, new Author(school.Id, null, now));
        output.WriteLine($"{email} becomes an administrator of {school.Name}, once and within seven days, at:\n{Address(options)}/join#{secret}");
    }

    private static string Address(Options options) => (options.Get("address") ?? Environment.GetEnvironmentVariable("VALTRO_ADDRESS") ?? "http://127.0.0.1:4180").TrimEnd('/');

    private static Connections Connect(Options options, bool migrate)
    {
        var connection = options.Database();
        if (migrate)
            Database.Migrate(options.OwnerDatabase(), connection);
        return Database.Connect(connection);
    }
}
