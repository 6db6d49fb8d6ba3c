using System.Collections.Immutable;
using Valtro.Core.Files;
using Valtro.Core.Reach;

namespace Valtro.Core.Events;

/// <summary>What a link of an event is for.</summary>
public enum LinkKind
{
    /// <summary>To read more.</summary>
    More,

    /// <summary>To sign up.</summary>
    Register,

    /// <summary>To buy or book a ticket.</summary>
    Tickets,

    /// <summary>To take part by video (RFC 7986, 5.11, CONFERENCE).</summary>
    Video,
}

/// <summary>A link of an event.</summary>
/// <param name="Kind">What it is for.</param>
/// <param name="Label">What people read; may be empty.</param>
/// <param name="Address">An http or https address.</param>
public sealed record EventLink(LinkKind Kind, string Label, string Address);

/// <summary>A file of an event.</summary>
/// <param name="Id">Identity, which links hold; it stays when the contents are replaced.</param>
/// <param name="ContentId">Identity of its contents.</param>
/// <param name="Name">The name it is downloaded with.</param>
/// <param name="MediaType">What it is, found from its contents.</param>
/// <param name="Size">Bytes.</param>
public sealed record EventFile(Guid Id, Guid ContentId, string Name, string MediaType, long Size);

/// <summary>The picture of an event.</summary>
/// <param name="Id">Identity of its contents.</param>
/// <param name="Alt">What is seen on it, in words; empty when it only adorns.</param>
public sealed record EventPicture(Guid Id, string Alt);

/// <summary>The most an event shows in a calendar it also stands in.</summary>
/// <param name="CalendarId">The calendar.</param>
/// <param name="Most">The most any audience but its team gets.</param>
public sealed record PlacementLimit(Guid CalendarId, Detail Most);

/// <summary>What an event has beside its title, time, place and description.</summary>
public sealed record EventFacts
{
    /// <summary>The longest line under a title.</summary>
    public const int MaxSubtitle = 200;

    /// <summary>The most tags.</summary>
    public const int MaxTags = 20;

    /// <summary>The longest tag.</summary>
    public const int MaxTag = 40;

    /// <summary>The most links.</summary>
    public const int MaxLinks = 10;

    /// <summary>The longest address (RFC 9110, 4.1, asks for 8000 at least; people paste shorter ones).</summary>
    public const int MaxAddress = 2000;

    /// <summary>The most calendars it can stand in beside its home.</summary>
    public const int MaxPlacements = 50;

    /// <summary>The longest time before the start for a reminder, in minutes: four weeks.</summary>
    public const int MaxReminder = 4 * 7 * 24 * 60;

    /// <summary>The most people an event can be for.</summary>
    public const int MaxSize = 100_000;

    /// <summary>The most files.</summary>
    public const int MaxFiles = 20;

    /// <summary>The longest text that stands for a picture.</summary>
    public const int MaxAlt = 300;

    /// <summary>Nothing of all this.</summary>
    public static readonly EventFacts None = new();

    /// <summary>A line under the title.</summary>
    public string Subtitle { get; init; } = "";

    /// <summary>Its category in the school's list; null for none.</summary>
    public Guid? CategoryId { get; init; }

    /// <summary>Its tags, as typed, without the sign.</summary>
    public ImmutableArray<string> Tags { get; init; } = [];

    /// <summary>A mark of its own, 1 to <see cref="Calendar.Marks"/>; null for its calendar's.</summary>
    public int? Mark { get; init; }

    /// <summary>Whether it leaves the time free (RFC 5545, 3.8.2.7, TRANSP).</summary>
    public bool IsFree { get; init; }

    /// <summary>Minutes before the start at which to remind (RFC 5545, 3.6.6, VALARM); null for not at all.</summary>
    public int? Reminder { get; init; }

    /// <summary>Whether it is a draft: only the team sees it.</summary>
    public bool IsDraft { get; init; }

    /// <summary>Its links.</summary>
    public ImmutableArray<EventLink> Links { get; init; } = [];

    /// <summary>The calendars it stands in beside its home.</summary>
    public ImmutableArray<Guid> AlsoIn { get; init; } = [];

    /// <summary>How many people it is for; null when nobody said.</summary>
    public int? Size { get; init; }

    /// <summary>Its files.</summary>
    public ImmutableArray<EventFile> Files { get; init; } = [];

    /// <summary>Its picture; null for none.</summary>
    public EventPicture? Picture { get; init; }

    /// <summary>The most it allows each audience; null where its calendars decide alone.</summary>
    public ReachTable? Reach { get; init; }

    /// <summary>What it shows less of in calendars it also stands in.</summary>
    public ImmutableArray<PlacementLimit> Limits { get; init; } = [];

    /// <summary>The most it shows in a calendar it stands in; null when the calendar decides.</summary>
    public Detail? MostIn(Guid calendarId)
    {
        foreach (var limit in Limits)
        {
            if (limit.CalendarId == calendarId)
                return limit.Most;
        }
        return null;
    }

    /// <summary>The facts with their texts cleaned.</summary>
    /// <param name="home">The event's home calendar, in which it stands anyway.</param>
    /// <exception cref="InvalidInputException">
    /// <c>text_too_long</c>, <c>too_many_tags</c>, <c>too_many_links</c>, <c>link_malformed</c>, <c>mark_unknown</c>,
    /// <c>reminder_range</c>, <c>size_range</c>, <c>too_many_calendars</c>, <c>too_many_files</c>, <c>file_name</c>.
    /// </exception>
    public EventFacts Checked(Guid home)
    {
        if (Tags.Length > MaxTags)
            throw new InvalidInputException("too_many_tags", "facts.tags", $"An event has {MaxTags} tags at most.");
        if (Links.Length > MaxLinks)
            throw new InvalidInputException("too_many_links", "facts.links", $"An event has {MaxLinks} links at most.");
        if (AlsoIn.Length > MaxPlacements)
            throw new InvalidInputException("too_many_calendars", "facts.alsoIn", $"An event stands in {MaxPlacements} calendars beside its own at most.");
        if (Mark is < 1 or > Calendar.Marks)
            throw new InvalidInputException("mark_unknown", "facts.mark", $"A mark is a number from 1 to {Calendar.Marks}.");
        if (Reminder is < 0 or > MaxReminder)
            throw new InvalidInputException("reminder_range", "facts.reminder", "A reminder comes at the start or up to four weeks before.");
        if (Size is < 1 or > MaxSize)
            throw new InvalidInputException("size_range", "facts.size", $"How many people: a number from 1 to {MaxSize}.");
        if (Files.Length > MaxFiles)
            throw new InvalidInputException("too_many_files", "facts.files", $"An event has {MaxFiles} files at most.");
        return this with
        {
            Subtitle = Texts.Line(Subtitle, "facts.subtitle", MaxSubtitle),
            Tags = [.. Tags.Select((t, i) => Texts.Line(t.TrimStart('#'), $"facts.tags.{i}", MaxTag)).Where(t => t.Length > 0).DistinctBy(t => t.ToLowerInvariant())],
            Links = [.. Links.Select(CheckedLink)],
            AlsoIn = [.. AlsoIn.Where(c => c != home).Distinct().Order()],
            Files = [.. Files.DistinctBy(f => f.Id).Select(f => f with { Name = FileKind.CleanName(f.Name) })],
            Picture = Picture is null ? null : Picture with { Alt = Texts.Line(Picture.Alt, "facts.picture", MaxAlt) },
            // A limit that allows everything says nothing.
            Reach = Reach == ReachTable.Open ? null : Reach,
            Limits = [.. Limits.Where(l => l.CalendarId != home && l.Most < Detail.Everything && AlsoIn.Contains(l.CalendarId)).DistinctBy(l => l.CalendarId).OrderBy(l => l.CalendarId)],
        };
    }

    /// <summary>Facts are the same when they say the same.</summary>
    public bool Equals(EventFacts? other) =>
        other is not null
        && (Subtitle, CategoryId, Mark, IsFree, Reminder, IsDraft, Size) == (other.Subtitle, other.CategoryId, other.Mark, other.IsFree, other.Reminder, other.IsDraft, other.Size)
        && (Picture, Reach) == (other.Picture, other.Reach)
        && Tags.SequenceEqual(other.Tags) && Links.SequenceEqual(other.Links) && AlsoIn.SequenceEqual(other.AlsoIn)
        && Files.SequenceEqual(other.Files) && Limits.SequenceEqual(other.Limits);

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(Subtitle, CategoryId, Mark, IsDraft, Tags.Length, Links.Length, AlsoIn.Length);

    private static EventLink CheckedLink(EventLink link, int at)
    {
        var address = (link.Address ?? "").Trim();
        // What is typed as people say it: without the scheme.
        if (address.Length > 0 && !address.Contains("://", StringComparison.Ordinal))
            address = "https://" + address;
        if (address.Length > MaxAddress || !Uri.TryCreate(address, UriKind.Absolute, out var uri)
            || (uri.Scheme != Uri.UriSchemeHttp && uri.Scheme != Uri.UriSchemeHttps)
            || uri.UserInfo.Length > 0 || !uri.Host.Contains('.') && uri.Host != "localhost"
            // As it is written (RFC 3986, 2.1): each letter that is not of ASCII takes six characters and more.
            || Written(uri) is not { Length: <= MaxAddress } written)
            throw new InvalidInputException("link_malformed", $"facts.links.{at}", $"“{link.Address}” is no address: write it as https://school.example/page.");
        return new EventLink(link.Kind, Texts.Line(link.Label, $"facts.links.{at}", MaxSubtitle), written);
    }

    // Blanks at the end of a fragment are trimmed once they are written as %20: written twice it stays as it is.
    private static string Written(Uri uri) => new Uri(uri.AbsoluteUri).AbsoluteUri;
}
