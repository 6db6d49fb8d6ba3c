using System.Text;

namespace Valtro.Core.LineEntry;

internal enum TokenKind
{
    Word,
    Number,
    Sign,
}

/// <summary>A piece of a line: a word, digits, or one sign.</summary>
/// <param name="Kind">Which.</param>
/// <param name="Text">Without capitals and accents.</param>
/// <param name="Start">Where it begins.</param>
/// <param name="End">Where it ends, exclusive.</param>
/// <param name="SpaceBefore">Whether a blank or nothing stands before it.</param>
internal readonly record struct Token(TokenKind Kind, string Text, int Start, int End, bool SpaceBefore)
{
    public bool Is(string text) => Text == text;

    /// <summary>Its value when it is a number of at most four digits; else −1.</summary>
    public int Number => Kind == TokenKind.Number && Text.Length <= 4 ? int.Parse(Text, System.Globalization.CultureInfo.InvariantCulture) : -1;
}

internal static class LineTokens
{
    public static Token[] Split(string text)
    {
        var tokens = new List<Token>();
        var plain = Plain(text);
        var isAfterSpace = true;
        for (var i = 0; i < plain.Length;)
        {
            if (char.IsWhiteSpace(plain[i]))
            {
                (isAfterSpace, i) = (true, i + 1);
                continue;
            }
            var from = i;
            var kind = char.IsAsciiDigit(plain[i]) ? TokenKind.Number : char.IsLetter(plain[i]) ? TokenKind.Word : TokenKind.Sign;
            i += char.IsHighSurrogate(plain[i]) && i + 1 < plain.Length && char.IsLowSurrogate(plain[i + 1]) ? 2 : 1;
            while (i < plain.Length && GoesOn(plain, i, kind))
                i++;
            tokens.Add(new Token(kind, plain[from..i], from, i, isAfterSpace));
            isAfterSpace = false;
        }
        return [.. tokens];
    }

    // An apostrophe belongs to the word it stands in: jusqu'au, o'clock.
    private static bool GoesOn(string plain, int i, TokenKind kind) => kind switch
    {
        TokenKind.Number => char.IsAsciiDigit(plain[i]),
        TokenKind.Word => char.IsLetter(plain[i]) || char.GetUnicodeCategory(plain[i]) == System.Globalization.UnicodeCategory.NonSpacingMark
            || (plain[i] == '\'' && i + 1 < plain.Length && char.IsLetter(plain[i + 1])),
        _ => false,
    };

    /// <summary>A text without capitals and accents, letter by letter: words are looked for in it, at the same positions.</summary>
    public static string Plain(string text)
    {
        var plain = new StringBuilder(text.Length);
        foreach (var c in text)
        {
            plain.Append(char.ToLowerInvariant(c) switch
            {
                'à' or 'â' => 'a',
                'ç' => 'c',
                'é' or 'è' or 'ê' or 'ë' => 'e',
                'î' or 'ï' => 'i',
                'ô' => 'o',
                'ù' or 'û' => 'u',
                '’' or 'ʼ' => '\'',
                var other => other,
            });
        }
        return plain.ToString();
    }
}

/// <summary>Ways to say one thing, each of one word or several.</summary>
internal sealed class Phrases
{
    private readonly Dictionary<string, string[][]> byFirst;

    public Phrases(params string[] phrases) =>
        byFirst = phrases.Select(p => LineTokens.Split(p).Select(t => t.Text).ToArray()).GroupBy(p => p[0]).ToDictionary(g => g.Key, g => g.OrderByDescending(p => p.Length).ToArray());

    /// <summary>Where the longest that stands at a token ends; −1 when none does.</summary>
    public int At(ReadOnlySpan<Token> tokens, int at)
    {
        if (at >= tokens.Length || !byFirst.TryGetValue(tokens[at].Text, out var candidates))
            return -1;
        foreach (var phrase in candidates)
        {
            if (phrase.Length > tokens.Length - at)
                continue;
            var i = 1;
            while (i < phrase.Length && tokens[at + i].Text == phrase[i])
                i++;
            if (i == phrase.Length)
                return at + i;
        }
        return -1;
    }

    public bool Has(string word) => byFirst.TryGetValue(word, out var candidates) && candidates.Any(p => p.Length == 1);
}
