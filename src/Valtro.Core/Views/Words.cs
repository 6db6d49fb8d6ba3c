using System.Globalization;
using System.Text;
using Valtro.Core.Events;

namespace Valtro.Core.Views;

/// <summary>The words by which events are found.</summary>
public static class Words
{
    // The program knows no tables of languages (it runs without them anywhere): the letters under the accents from U+00C0 on.
    private const char FirstAccented = '\u00C0';

    private const string Plainly =
        "aaaaaa.ceeeeiiii.nooooo.ouuuuy..aaaaaa.ceeeeiiii.nooooo.ouuuuy.yaaaaaaccccccccdd" +
        "ddeeeeeeeeeegggggggghhhhiiiiiiiiii..jjkk.llllll..llnnnnnn...oooooo..rrrrrrssssss" +
        "ssttttttuuuuuuuuuuuuwwyyyzzzzzz.................................oo.............u" +
        "u............................aaiioouuuuuuuuuu.aaaa....ggkkoooo..j...gg..nnaa..oo" +
        "aaaaeeeeiiiioooorrrruuuusstt..hh......aaeeooooooooyy............................";

    /// <summary>Everything a person may remember of an event, folded.</summary>
    public static string Of(Event e) => Of(e.Title, e.Place, e.Description, e.Facts, e.Changes);

    /// <summary>Everything somebody who gets this may remember of it, folded.</summary>
    public static string Of(EventView e) => Of(e.Title, e.Place, e.Description, e.Facts, e.Changes);

    private static string Of(string? title, string? place, string? description, EventFacts facts, IEnumerable<EventChange> changes) => Fold(string.Join(
        ' ',
        [
            title ?? "", facts.Subtitle, place ?? "", Plain(description),
            .. OfLists(facts.Tags, facts.Links, facts.Files),
            .. changes.SelectMany(c => new[] { c.Title ?? "", c.Facts.Subtitle ?? "", c.Place ?? "", Plain(c.Description) }),
            .. changes.SelectMany(c => OfLists(c.Facts.Tags, c.Facts.Links, c.Facts.Files)),
        ]));

    private static IEnumerable<string> OfLists(IEnumerable<string> tags, IEnumerable<EventLink> links, IEnumerable<EventFile> files) =>
        [.. tags.Select(t => "#" + t), .. links.Select(l => l.Label), .. files.Select(f => f.Name)];

    /// <summary>Lower case, without accents, one blank between words.</summary>
    public static string Fold(string text)
    {
        var folded = new StringBuilder(text.Length);
        foreach (var c in text)
        {
            if (CharUnicodeInfo.GetUnicodeCategory(c) != UnicodeCategory.NonSpacingMark)
                folded.Append(char.IsWhiteSpace(c) ? ' ' : PlainOf(c));
        }
        return string.Join(' ', folded.ToString().Split(' ', StringSplitOptions.RemoveEmptyEntries));
    }

    private static char PlainOf(char c) =>
        c < FirstAccented || c - FirstAccented >= Plainly.Length || Plainly[c - FirstAccented] == '.' ? char.ToLowerInvariant(c) : Plainly[c - FirstAccented];

    private static string Plain(string? rich) => rich is null ? "" : RichText.Plain(rich);
}
