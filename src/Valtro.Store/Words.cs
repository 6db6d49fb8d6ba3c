using System.Globalization;
using System.Text;
using Valtro.Core.Events;

namespace Valtro.Store;

/// <summary>The words by which events are found.</summary>
internal static class Words
{
    /// <summary>Everything a person may remember of an event, folded.</summary>
    public static string Of(Event e) => Fold(string.Join(
        ' ',
        [
            e.Title, e.Facts.Subtitle, e.Place, RichText.Plain(e.Description),
            .. e.Facts.Tags.Select(t => "#" + t),
            .. e.Facts.Links.Select(l => l.Label),
            .. e.Facts.Files.Select(f => f.Name),
            .. e.Changes.SelectMany(c => new[] { c.Title, c.Place, c.Description is null ? null : RichText.Plain(c.Description) }).OfType<string>(),
        ]));

    /// <summary>Lower case, without accents, one blank between words.</summary>
    public static string Fold(string text)
    {
        var folded = new StringBuilder(text.Length);
        foreach (var c in text.Normalize(NormalizationForm.FormD))
        {
            if (CharUnicodeInfo.GetUnicodeCategory(c) != UnicodeCategory.NonSpacingMark)
                folded.Append(char.IsWhiteSpace(c) ? ' ' : char.ToLowerInvariant(c));
        }
        return string.Join(' ', folded.ToString().Split(' ', StringSplitOptions.RemoveEmptyEntries));
    }
}
