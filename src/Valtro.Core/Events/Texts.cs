using System.Text;

namespace Valtro.Core.Events;

/// <summary>The checks every text a person types goes through.</summary>
public static class Texts
{
    /// <summary>A title: one line, not empty.</summary>
    /// <exception cref="InvalidInputException"><c>title_missing</c>, <c>text_too_long</c>.</exception>
    public static string Title(string? text, string field, int max)
    {
        var title = Line(text, field, max);
        return title.Length > 0
            ? title
            : throw new InvalidInputException("title_missing", field, "A title is needed: a word is enough.");
    }

    /// <summary>One line, which may be empty.</summary>
    /// <exception cref="InvalidInputException"><c>text_too_long</c>.</exception>
    public static string Line(string? text, string field, int max) =>
        Bounded(Clean(text, keepLines: false), field, max);

    /// <summary>Several lines, which may be empty.</summary>
    /// <exception cref="InvalidInputException"><c>text_too_long</c>.</exception>
    public static string Optional(string? text, string field, int max) =>
        Bounded(Clean(text, keepLines: true), field, max);

    private static string Bounded(string text, string field, int max) =>
        text.Length <= max
            ? text
            : throw new InvalidInputException("text_too_long", field, $"The text has {text.Length} characters; {max} fit.");

    private static string Clean(string? text, bool keepLines)
    {
        if (string.IsNullOrWhiteSpace(text))
            return "";
        var clean = new StringBuilder(text.Length);
        foreach (var c in text.ReplaceLineEndings("\n"))
        {
            if (c == '\n' && keepLines)
                clean.Append(c);
            else if (char.IsControl(c))
                clean.Append(' ');
            else
                clean.Append(c);
        }
        return clean.ToString().Trim();
    }
}
