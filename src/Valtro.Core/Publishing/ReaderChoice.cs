using System.Collections.Immutable;
using System.Security.Cryptography;
using Valtro.Core.Views;

namespace Valtro.Core.Publishing;

/// <summary>
/// What a reader wants of what a publication sends out: some of its calendars off, one category, some words. It has one form, so
/// that whoever wants the same gets the same bytes; it never gives more than the publication does. Immutable.
/// </summary>
public sealed record ReaderChoice
{
    private const int MaxWords = 100;
    private const int NameLength = 8;

    private ReaderChoice(ImmutableArray<string> off, string category, string words)
    {
        (Off, Category, Words) = (off, category, words);
    }

    /// <summary>All of it.</summary>
    public static ReaderChoice None { get; } = new([], "", "");

    /// <summary>The calendars that are off, by their names (<see cref="NameOf"/>), in order.</summary>
    public ImmutableArray<string> Off { get; }

    /// <summary>The name of the category; empty for every one.</summary>
    public string Category { get; }

    /// <summary>Words that have to be found, folded (<see cref="Words.Fold"/>); may be empty.</summary>
    public string Words { get; }

    /// <summary>Whether it is all of it.</summary>
    public bool IsNone => Off.IsEmpty && Category.Length == 0 && Words.Length == 0;

    /// <summary>A calendar's name in addresses of one publication: short, lasting, and of no use elsewhere.</summary>
    public static string NameOf(Publication publication, Guid calendarId) =>
        Convert.ToHexStringLower(SHA256.HashData([.. publication.Id.ToByteArray(), .. calendarId.ToByteArray()]).AsSpan(0, NameLength / 2));

    /// <summary>The choice that parts of an address make; what can be no part of one is as if it were not there.</summary>
    /// <param name="off">Names of calendars, separated by commas.</param>
    /// <param name="category">The name of a category.</param>
    /// <param name="words">What is sought.</param>
    public static ReaderChoice Read(string? off, string? category, string? words)
    {
        var names = (off ?? "").ToLowerInvariant().Split(',', Publication.MaxCalendars + 1)
            .Where(n => n.Length == NameLength && n.All(char.IsAsciiHexDigitLower));
        return new ReaderChoice([.. names.Distinct().Order(StringComparer.Ordinal)], Short(category), Views.Words.Fold(Short(words)));
    }

    /// <summary>The part of an address that makes this choice, with its question mark; empty for all.</summary>
    public string Query
    {
        get
        {
            var parts = new List<string>();
            if (Category.Length > 0)
                parts.Add("category=" + Uri.EscapeDataString(Category));
            if (!Off.IsEmpty)
                parts.Add("off=" + string.Join(',', Off));
            if (Words.Length > 0)
                parts.Add("q=" + Uri.EscapeDataString(Words));
            return parts.Count == 0 ? "" : "?" + string.Join('&', parts);
        }
    }

    /// <summary>What of an event that goes out is among it: one of its calendars is on, dates are of the category, and all words are found; null for nothing.</summary>
    public EventView? Of(Publication publication, EventView e) =>
        (Off.IsEmpty || e.Calendars.Any(c => !Off.Contains(NameOf(publication, c.Id)))) && (Words.Length == 0 || e.HasWords(Words))
            ? Category.Length == 0 ? e : e.Wanted(change => e.CategoryOn(change) == Category)
            : null;

    /// <summary>Choices are the same when they choose the same.</summary>
    public bool Equals(ReaderChoice? other) => other is not null && (Category, Words) == (other.Category, other.Words) && Off.SequenceEqual(other.Off);

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(Category, Words, Off.Length);

    private static string Short(string? text) => (text ?? "").Trim() is var t && t.Length > MaxWords ? t[..MaxWords] : (text ?? "").Trim();
}
