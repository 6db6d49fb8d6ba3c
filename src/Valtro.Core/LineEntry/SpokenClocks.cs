namespace Valtro.Core.LineEntry;

/// <summary>The rules of each language for times said in words.</summary>
internal static class SpokenClocks
{
    private static readonly Dictionary<string, int> EnglishMinutes = new() { ["five"] = 5, ["ten"] = 10, ["quarter"] = 15, ["twenty"] = 20, ["half"] = 30 };

    /// <summary>"half past nine", "a quarter to four", "ten past 3", "nine o'clock".</summary>
    public static (int Hour, int Minute, int End)? English(Token[] tokens, int at, LineWords words)
    {
        var i = words.A.At(tokens, at) is >= 0 and var article && article < tokens.Length && tokens[article].Is("quarter") ? article : at;
        if (i < tokens.Length && EnglishMinutes.TryGetValue(tokens[i].Text, out var minutes) && i + 2 < tokens.Length && tokens[i + 1].Text is "past" or "to" or "after")
        {
            if (Hour(tokens, i + 2, words) is not (> 0 and <= 12 and var hour))
                return null;
            return tokens[i + 1].Is("to") ? minutes == 30 ? null : ((hour + 10) % 12 + 1, 60 - minutes, i + 3) : (hour, minutes, i + 3);
        }
        // "half three" is half past.
        if (tokens[at].Is("half") && Hour(tokens, at + 1, words) is > 0 and <= 12 and var after && (tokens[at + 1].Kind == TokenKind.Word || (at > 0 && words.At.At(tokens, at - 1) == at)))
            return (after, 30, at + 2);
        return Hour(tokens, at, words) is > 0 and <= 12 and var whole && words.OClock.At(tokens, at + 1) is >= 0 and var end ? (whole, 0, end) : null;
    }

    /// <summary>"neuf heures et demie", "9 h moins le quart", "midi et demi".</summary>
    public static (int Hour, int Minute, int End)? French(Token[] tokens, int at, LineWords words)
    {
        int hour, i;
        if (words.Noon.At(tokens, at) is >= 0 and var noon)
            (hour, i) = (12, noon);
        else if (Hour(tokens, at, words) is > 0 and <= 24 and var said && words.OClock.At(tokens, at + 1) is >= 0 and var end)
            (hour, i) = (said, end);
        else
            return null;
        bool Follows(params ReadOnlySpan<string> these)
        {
            for (var k = 0; k < these.Length; k++)
            {
                if (i + k >= tokens.Length || !tokens[i + k].Is(these[k]))
                    return false;
            }
            i += these.Length;
            return true;
        }
        if (Follows("et", "demie") || Follows("et", "demi"))
            return (hour, 30, i);
        if (Follows("et", "quart"))
            return (hour, 15, i);
        if (Follows("moins", "le", "quart"))
            return (hour - 1, 45, i);
        // In digits it is read with its minutes.
        return tokens[at].Kind == TokenKind.Number ? null : (hour, 0, i);
    }

    private static int Hour(Token[] tokens, int at, LineWords words) =>
        at >= tokens.Length ? 0 : tokens[at].Kind == TokenKind.Number && tokens[at].Text.Length <= 2 ? tokens[at].Number : words.NumberWord(tokens[at].Text);
}
