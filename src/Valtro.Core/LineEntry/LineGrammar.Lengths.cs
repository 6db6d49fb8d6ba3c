using NodaTime;

namespace Valtro.Core.LineEntry;

/// <summary>How long something is, as it stands in a line.</summary>
/// <param name="Length">Minutes, or whole days.</param>
/// <param name="IsSaid">Whether a word says that it is a length: for 2h.</param>
/// <param name="End">Where it ends.</param>
internal sealed record LengthSaid(Period Length, bool IsSaid, int End);

internal sealed partial class LineGrammar
{
    /// <summary>"for 2h", "for 1h30", "for 1.5 hours", "for half an hour", "45 min".</summary>
    private LengthSaid? Length(int at)
    {
        var i = After(words.For, at) ?? at;
        var isSaid = i > at;
        if (After(words.HalfHour, i) is { } half)
            return new LengthSaid(Period.FromMinutes(30), isSaid, half);
        if (i >= tokens.Length || (i > 0 && tokens[i - 1].Text is "x" or "×") || CountAt(i) is not var (number, unit))
            return null;
        var minutes = number * 60;
        // "1.5 hours", "1,5 h".
        if (tokens[i].Kind == TokenKind.Number && IsGlued(unit) && tokens[unit].Text is "." or "," && IsGlued(unit + 1) && tokens[unit + 1] is { Kind: TokenKind.Number, Text.Length: 1 } tenth)
            (minutes, unit) = (minutes + 6 * tenth.Number, unit + 2);
        if (unit >= tokens.Length)
            return null;
        // "9h" alone is a time.
        if (After(words.Hours, unit) is { } hours && minutes <= 24 * 60 && (isSaid || !words.HourMark.Has(tokens[unit].Text)))
        {
            // "1h30", "1 hour 30 min", "an hour and a half".
            if (hours < tokens.Length && tokens[hours] is { Kind: TokenKind.Number, Text.Length: 2 } && tokens[hours].Number < 60)
                (minutes, hours) = (minutes + tokens[hours].Number, After(words.Minutes, hours + 1) ?? hours + 1);
            else if (hours + 2 < tokens.Length && tokens[hours].Is("and") && tokens[hours + 1].Is("a") && tokens[hours + 2].Is("half"))
                (minutes, hours) = (minutes + 30, hours + 3);
            return Ending(Period.FromMinutes(minutes), hours);
        }
        if (After(words.Minutes, unit) is { } mins && number <= 1440)
            return Ending(Period.FromMinutes(number), mins);
        if (After(words.Days, unit) is { } days && number <= 366)
            return Ending(Period.FromDays(number), days);
        return After(words.WeekUnit, unit) is { } weeks && number <= 52 ? Ending(Period.FromDays(7 * number), weeks) : null;

        LengthSaid? Ending(Period length, int end) => EndsAt(After(words.Long, end) ?? end) ? new LengthSaid(length, isSaid, After(words.Long, end) ?? end) : null;
    }
}
