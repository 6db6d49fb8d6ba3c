using NodaTime;

namespace Valtro.Core.LineEntry;

/// <summary>
/// The grammar of a line: what may stand at each of its words. Every rule answers with what it read and where that ends, or with
/// nothing; which of the candidates make the line is chosen afterwards.
/// </summary>
internal sealed partial class LineGrammar
{
    /// <summary>Nothing else is written so.</summary>
    public const int Sure = 8;

    /// <summary>Hardly anything else is written so.</summary>
    public const int Likely = 5;

    /// <summary>It is as well something else.</summary>
    public const int Weak = 2;

    private readonly string text;
    private readonly LineContext context;
    private readonly LineWords words;
    private readonly Token[] tokens;
    private readonly bool isMorning;
    private readonly bool isEvening;

    public LineGrammar(string text, LineContext context, LineWords words)
    {
        (this.text, this.context, this.words) = (text, context, words);
        tokens = LineTokens.Split(text);
        for (var i = 0; i < tokens.Length; i++)
        {
            isMorning |= words.MorningWords.At(tokens, i) >= 0;
            isEvening |= words.EveningWords.At(tokens, i) >= 0 || words.Tonight.At(tokens, i) >= 0;
        }
        if (isMorning && isEvening)
            isMorning = isEvening = false;
    }

    public Token[] Tokens => tokens;

    /// <summary>Where a phrase that stands at a position ends; null when it does not.</summary>
    private int? After(Phrases phrases, int at) => phrases.At(tokens, at) is >= 0 and var end ? end : null;

    /// <summary>Whether a part can begin at a token: after a blank, or after a sign that parts.</summary>
    private bool StartsAt(int at) =>
        tokens[at].SpaceBefore || at == 0 || (tokens[at - 1].Kind == TokenKind.Sign && "([{,;:|–—\"“«&+>/".Contains(tokens[at - 1].Text[0]) && !(tokens[at - 1].Is("/") && at > 1 && tokens[at - 2].Kind == TokenKind.Number) && !(tokens[at - 1].Text is ":" or "," && at > 1 && tokens[at - 2].Kind == TokenKind.Number && tokens[at].Kind == TokenKind.Number));

    /// <summary>Whether a part can end before a token: before a blank, or before signs and then a blank.</summary>
    /// <param name="at">The token.</param>
    /// <param name="orDash">Whether a dash may follow as well.</param>
    private bool EndsAt(int at, bool orDash = false)
    {
        while (at < tokens.Length && !tokens[at].SpaceBefore)
        {
            if (tokens[at].Kind != TokenKind.Sign)
                return tokens[at - 1].Kind == TokenKind.Sign && tokens[at - 1].Text is "&" or "," or ";" or "+" or ":" or ")" or "|" && !(tokens[at].Kind == TokenKind.Number && tokens[at - 1].Text is ":" or ",");
            if (orDash && tokens[at].Text is "-" or "–" or "—")
                return true;
            if (!",;.!?)]}:\"”»|&+…@".Contains(tokens[at].Text[0]))
                return false;
            at++;
        }
        return true;
    }

    /// <summary>A whole text as one day in a field; null when it is none, or contradicts itself.</summary>
    public LocalDate? WholeDay() =>
        tokens.Length > 0 && DayVariants(After(words.On, 0) is { } on ? on : 0).Concat(DayVariants(0)).Where(d => d.End == tokens.Length && !d.IsBare).Select(d => (DaySaid?)d).FirstOrDefault() is { } day
        && Resolve(day) is { Date: { } date, Disagrees: null } ? date : null;

    /// <summary>A whole text as one time; null when it is none.</summary>
    /// <param name="bySense">Whether 3 is the afternoon's.</param>
    public LocalTime? WholeClock(bool bySense)
    {
        if (Clock(0) is not { } clock || clock.End != tokens.Length)
            return tokens is [{ Kind: TokenKind.Number, Text.Length: 3 }] && tokens[0].Number is var run && run % 100 < 60 ? new LocalTime(run / 100, run % 100) : null;
        var minutes = bySense ? Readings(clock, null)[0].From : clock.Half == HalfOfDay.None ? clock.Hour * 60 + clock.Minute : clock.Meanings()[0];
        return minutes < 1440 ? LocalTime.FromMinutesSinceMidnight(minutes) : null;
    }

    /// <summary>The days a text ends in, and the token they begin at; null when it ends in none.</summary>
    public (int At, LocalDate First, LocalDate Last)? DaysAtEnd()
    {
        for (var at = 0; at < tokens.Length; at++)
        {
            if (!StartsAt(at))
                continue;
            foreach (var when in Whens(at))
            {
                if (when.End == tokens.Length && when.Items is [{ From: null } only])
                    return (at, only.First, only.Last);
            }
        }
        return null;
    }
}
