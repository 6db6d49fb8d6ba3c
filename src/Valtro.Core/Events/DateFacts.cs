using System.Collections.Immutable;

namespace Valtro.Core.Events;

/// <summary>
/// What one date of a series has beside otherwise than the others: what is its own, and what of the series' is not there. It
/// is told by the difference, so that what the series gets later comes to this date too.
/// </summary>
public sealed record DateFacts
{
    /// <summary>As the series.</summary>
    public static DateFacts None { get; } = new();

    /// <summary>Another line under the title; null for the series'.</summary>
    public string? Subtitle { get; init; }

    /// <summary>Whether it has a category of its own.</summary>
    public bool SetsCategory { get; init; }

    /// <summary>That category; null for none.</summary>
    public Guid? CategoryId { get; init; }

    /// <summary>Tags of its own.</summary>
    public ImmutableArray<string> Tags { get; init; } = [];

    /// <summary>Tags of the series it has not, whatever their case.</summary>
    public ImmutableArray<string> WithoutTags { get; init; } = [];

    /// <summary>Links of its own.</summary>
    public ImmutableArray<EventLink> Links { get; init; } = [];

    /// <summary>Links of the series it has not, by their addresses.</summary>
    public ImmutableArray<string> WithoutLinks { get; init; } = [];

    /// <summary>Files of its own.</summary>
    public ImmutableArray<EventFile> Files { get; init; } = [];

    /// <summary>Files of the series it has not, by their identities.</summary>
    public ImmutableArray<Guid> WithoutFiles { get; init; } = [];

    /// <summary>Whether it is all as the series.</summary>
    public bool IsNone => this == None;

    /// <summary>What such a date has, of what can be its own: the rest is the series'.</summary>
    /// <param name="date">What it shall have, checked.</param>
    /// <param name="series">What the series has.</param>
    public static DateFacts Between(EventFacts date, EventFacts series)
    {
        ImmutableArray<string> withoutLinks = [.. series.Links.Except(date.Links).Select(l => l.Address).Distinct()];
        return new DateFacts
        {
            Subtitle = date.Subtitle == series.Subtitle ? null : date.Subtitle,
            SetsCategory = date.CategoryId != series.CategoryId,
            CategoryId = date.CategoryId == series.CategoryId ? null : date.CategoryId,
            Tags = [.. date.Tags.Where(t => !Holds(series.Tags, t))],
            WithoutTags = [.. series.Tags.Where(t => !Holds(date.Tags, t))],
            Links = [.. date.Links.Where(l => withoutLinks.Contains(l.Address) || !series.Links.Contains(l))],
            WithoutLinks = withoutLinks,
            // Other contents under the link of a file of the series are another file: links lead to one.
            Files = [.. date.Files.Except(series.Files).Select(f => series.Files.Any(s => s.Id == f.Id) ? f with { Id = f.ContentId } : f)],
            WithoutFiles = [.. series.Files.Except(date.Files).Select(f => f.Id)],
        };
    }

    /// <summary>What the date has, by what the series has now.</summary>
    public EventFacts On(EventFacts series) => IsNone ? series : series with
    {
        Subtitle = Subtitle ?? series.Subtitle,
        CategoryId = SetsCategory ? CategoryId : series.CategoryId,
        Tags = [.. series.Tags.Where(t => !Holds(WithoutTags, t) && !Holds(Tags, t)), .. Tags],
        Links = [.. series.Links.Where(l => !WithoutLinks.Contains(l.Address)), .. Links.Where(l => WithoutLinks.Contains(l.Address) || !series.Links.Contains(l))],
        Files = [.. series.Files.Where(f => !WithoutFiles.Contains(f.Id) && Files.All(own => own.Id != f.Id)), .. Files],
    };

    /// <summary>The same when it says the same.</summary>
    public bool Equals(DateFacts? other) =>
        other is not null && (Subtitle, SetsCategory, CategoryId) == (other.Subtitle, other.SetsCategory, other.CategoryId)
        && Tags.SequenceEqual(other.Tags) && WithoutTags.SequenceEqual(other.WithoutTags)
        && Links.SequenceEqual(other.Links) && WithoutLinks.SequenceEqual(other.WithoutLinks)
        && Files.SequenceEqual(other.Files) && WithoutFiles.SequenceEqual(other.WithoutFiles);

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(Subtitle, CategoryId, Tags.Length, Links.Length, Files.Length, WithoutFiles.Length);

    private static bool Holds(ImmutableArray<string> tags, string tag) => tags.Contains(tag, StringComparer.OrdinalIgnoreCase);
}
