using System.Text.Json;
using FsCheck.Xunit;
using Valtro.Core.Events;
using Valtro.Core.People;
using Valtro.Core.Publishing;
using Valtro.Core.Reach;
using Valtro.Core.Tests.ICalendar;
using Valtro.Core.Views;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Reach;

/// <summary>
/// Whatever limits an event: what goes out by a feed, and what a member sees, has no word that its detail does not allow.
/// The detail allowed is computed here by itself, as the least of all that may limit.
/// </summary>
public class NoPathShowsMoreTests
{
    private static readonly Guid FileId = Guid.NewGuid();
    private static readonly JsonSerializerOptions Json = new() { Converters = { new Times() } };

    // Each a word that stands nowhere else, and the least detail that may say it.
    private static readonly (string Word, Detail Least)[] Words =
    [
        ("Wtitle", Detail.Headlines), ("Wplace", Detail.Headlines), ("Wonetitle", Detail.Headlines),
        ("Wtext", Detail.Everything), ("Wsubtitle", Detail.Everything), ("Wtag", Detail.Everything), ("Wlabel", Detail.Everything), ("waddress", Detail.Everything),
        ("Wfile", Detail.Everything), (FileId.ToString(), Detail.Everything), ("Wcategory", Detail.Everything), ("Wonetext", Detail.Everything), ("Walt", Detail.Everything),
        ("Wonesubtitle", Detail.Everything), ("Wonetag", Detail.Everything), ("Wonelabel", Detail.Everything), ("woneaddress", Detail.Everything), ("Wonefile", Detail.Everything),
    ];

    private static ReachTable Table(byte seed)
    {
        var levels = new[] { seed % 4, seed / 4 % 4, seed / 16 % 4 }.OrderDescending().Select(n => (Detail)n).ToArray();
        return new ReachTable(levels[0], levels[1], levels[2]);
    }

    private static (Event Event, Calendar Calendar, SchoolLists Lists, Func<Audience, Detail> Allowed) Make(byte reach, byte? own, byte? category, byte? placement, bool isHome)
    {
        var calendar = Calendar(Table(reach), "Open name");
        var kind = new Category(Guid.NewGuid(), "Wcategory", null, false, category is { } c ? Table(c) : null);
        var home = isHome ? calendar.Id : Guid.NewGuid();
        var facts = new EventFacts
        {
            Subtitle = "Wsubtitle",
            CategoryId = kind.Id,
            Tags = ["Wtag"],
            Links = [new EventLink(LinkKind.Register, "Wlabel", "https://waddress.example/")],
            Files = [new EventFile(FileId, Guid.NewGuid(), "Wfile.pdf", "application/pdf", 1)],
            Picture = new EventPicture(Guid.NewGuid(), "Walt"),
            Reach = own is { } o ? Table(o) : null,
            AlsoIn = isHome ? [] : [calendar.Id],
            Limits = placement is { } p ? [new PlacementLimit(calendar.Id, (Detail)(p % 4))] : [],
        }.Checked(home);
        var e = Event(Timed("2026-09-08 09:00", "2026-09-08 10:00"), "FREQ=WEEKLY;COUNT=3", "Wtitle", home) with
        {
            Place = "Wplace",
            Description = "<p>Wtext</p>",
            Facts = facts,
            Changes = [new EventChange { Date = At("2026-09-15 09:00"), Title = "Wonetitle", Description = "<p>Wonetext</p>", Facts = OneDate }],
        };
        Detail Allowed(Audience audience) => new[]
        {
            calendar.Reach.For(audience),
            facts.Reach?.For(audience) ?? Detail.Everything,
            kind.Reach?.For(audience) ?? Detail.Everything,
            // At home nothing but the calendar and the event decide.
            isHome ? Detail.Everything : facts.MostIn(calendar.Id) ?? Detail.Everything,
        }.Min();
        return (e, calendar, new SchoolLists { Categories = [kind] }, Allowed);
    }

    private static readonly DateFacts OneDate = new()
    {
        Subtitle = "Wonesubtitle",
        Tags = ["Wonetag"],
        Links = [new EventLink(LinkKind.More, "Wonelabel", "https://woneaddress.example/")],
        Files = [new EventFile(Guid.NewGuid(), Guid.NewGuid(), "Wonefile.pdf", "application/pdf", 1)],
    };

    private static void SaysOnly(Detail allowed, string said, string uid)
    {
        foreach (var (word, least) in Words)
            Assert.True(allowed >= least || !said.Contains(word, StringComparison.OrdinalIgnoreCase), $"{word} is said with {allowed}");
        Assert.True(allowed >= Detail.Headlines || !said.Contains(uid, StringComparison.OrdinalIgnoreCase), "its identity is said");
    }

    [Property(MaxTest = 400)]
    public void A_feed_says_what_everyone_may_know(byte reach, byte? own, byte? category, byte? placement, bool isHome)
    {
        var (e, calendar, lists, allowed) = Make(reach, own, category, placement, isHome);
        var projection = Projection.Of(Publication(calendar), Halifax, [calendar], [e], Now, lists);
        var feed = string.Join('\n', Ics.Of(projection, Ics.Head with { FilesUrl = "https://a.example/f/" }).Lines);
        SaysOnly(allowed(Audience.Everyone), feed, e.Uid);
        // And it is not made right by saying nothing at all.
        Assert.Equal(allowed(Audience.Everyone) >= Detail.TimesOnly, feed.Contains("BEGIN:VEVENT", StringComparison.Ordinal));
        Assert.Equal(allowed(Audience.Everyone) >= Detail.Headlines, feed.Contains("Wtitle", StringComparison.Ordinal));
        Assert.Equal(allowed(Audience.Everyone) >= Detail.Everything, feed.Contains("Wfile", StringComparison.Ordinal));
    }

    [Property(MaxTest = 400)]
    public void A_member_sees_what_members_may_know_and_the_team_all(byte reach, byte? own, byte? category, byte? placement, bool isHome)
    {
        var (e, calendar, lists, allowed) = Make(reach, own, category, placement, isHome);
        var calendars = new Dictionary<Guid, Calendar> { [calendar.Id] = calendar };
        string Said(Access access) => JsonSerializer.Serialize(Eyes.Of(access, calendars, lists, calendar.Id).View([e]).Select(s => new
        {
            s.Id,
            s.Uid,
            s.Title,
            s.Place,
            s.Description,
            s.Facts,
            s.Changes,
            s.Category,
        }), Json);

        SaysOnly(allowed(Audience.Members), Said(Access.Nobody), e.Uid);
        SaysOnly(allowed(Audience.LinkHolders), Said(Access.Nobody with { LooksAs = Audience.LinkHolders }), e.Uid);
        Assert.Equal(allowed(Audience.Members) >= Detail.Headlines, Said(Access.Nobody).Contains("Wtitle", StringComparison.Ordinal));
        var reader = new Access(SchoolRole.Member, new Dictionary<Guid, CalendarRole> { [calendar.Id] = CalendarRole.Reader });
        Assert.All(Words, w => Assert.Contains(w.Word, Said(reader), StringComparison.OrdinalIgnoreCase));
    }

    /// <summary>Times say nothing here; they need only be written.</summary>
    private sealed class Times : System.Text.Json.Serialization.JsonConverter<LocalDateTime>
    {
        public override LocalDateTime Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options) => default;

        public override void Write(Utf8JsonWriter writer, LocalDateTime value, JsonSerializerOptions options) => writer.WriteStringValue(value.ToString());
    }
}
