using System.Collections.Immutable;
using System.Globalization;
using NodaTime;

namespace Valtro.Core.LineEntry;

internal enum HalfOfDay
{
    None,
    Morning,
    Afternoon,
}

internal enum ClockForm
{
    /// <summary>9.</summary>
    Bare,

    /// <summary>1900.</summary>
    FourDigits,

    /// <summary>7.30.</summary>
    Dotted,

    /// <summary>7:30, 7pm, 19h, noon: nothing else is written so.</summary>
    Marked,
}

/// <summary>A time as it was written.</summary>
internal readonly record struct ClockSaid(int Hour, int Minute, HalfOfDay Half, ClockForm Form, bool IsExact, int End)
{
    /// <summary>The minutes of the day it may mean.</summary>
    public int[] Meanings()
    {
        if (IsExact)
            return [Hour * 60 + Minute];
        var minutes = Hour % 12 * 60 + Minute;
        return Half switch
        {
            HalfOfDay.Morning => [minutes],
            HalfOfDay.Afternoon => [minutes + 720],
            _ => [minutes, minutes + 720],
        };
    }
}

/// <summary>One way to take a time or two: minutes of the first day, the end perhaps of the next.</summary>
internal readonly record struct TimesRead(int From, int? To, int Cost)
{
    public LocalTime Start => Clock(From);

    public LocalTime? End => To is { } to ? Clock(to) : null;

    public int DaysOver => (To ?? From) / 1440;

    /// <summary>Written so that it can be taken in one way only.</summary>
    public string Spelled => Spell(From) + (To is { } to ? "-" + Spell(to) : "");

    private static LocalTime Clock(int minutes) => LocalTime.FromMinutesSinceMidnight(minutes % 1440);

    private static string Spell(int minutes) => Clock(minutes).ToString("HH':'mm", CultureInfo.InvariantCulture);
}

/// <summary>A time or two as they stand in a line.</summary>
/// <param name="Readings">The ways to take them that are nearly as good as the best, which is the first.</param>
/// <param name="Strength">How surely it is a time at all.</param>
/// <param name="MayBeTitle">Whether it is as well no time.</param>
/// <param name="End">Where it ends.</param>
internal sealed record TimesSaid(ImmutableArray<TimesRead> Readings, int Strength, bool MayBeTitle, int End);

internal sealed partial class LineGrammar
{
    /// <summary>"9:30-11", "7pm", "from 10 until 2", "at 9", "half past nine", "1900".</summary>
    /// <param name="at">Where it begins.</param>
    /// <param name="isAfterDay">Whether a day stands right before, so that a bare number is a time.</param>
    private TimesSaid? Times(int at, bool isAfterDay)
    {
        if (words.Between.At(tokens, at) is >= 0 and var between && Clock(between) is { } one && After(words.And, one.End) is { } and && Clock(and) is { } two)
            return Said(at, one, two, isSaid: true, isAfterDay);
        foreach (var (phrases, isSure) in new[] { (words.At, true), (words.MaybeAt, false) })
        {
            // "Study hall from 3" at the end of the line.
            if (!isSure && !isAfterDay && After(words.From, at) is { } since && words.TwelveHours && since + 1 == tokens.Length && Clock(since) is { Form: ClockForm.Bare, Hour: > 0 and < 13 } open && !IsCounted(since) && !IsTitleByChoice(at, open.End))
                return new TimesSaid([.. Readings(open, null).Take(1)], Weak, true, open.End);
            if (After(phrases, at) is { } begin && Clock(begin) is { } from && (isSure || Follower(from) is not null || from.Form is not ClockForm.Bare || (isAfterDay && words.TwelveHours && !(tokens[at].Is("@") && from.End < tokens.Length && char.IsUpper(text[tokens[from.End].Start])))))
                return Said(at, from, Follower(from), isSaid: isSure || Follower(from) is not null, isAfterDay);
        }
        return Clock(at) is { } clock ? Said(at, clock, Follower(clock), isSaid: false, isAfterDay) : null;
    }

    // What comes after "9 to", "9-".
    private ClockSaid? Follower(ClockSaid from) =>
        words.To.At(tokens, from.End) is >= 0 and var to && Clock(to) is { } end && EndsAt(end.End) ? end
        // "10h/18h"
        : from.Form == ClockForm.Marked && IsGlued(from.End) && tokens[from.End].Is("/") && IsGlued(from.End + 1) && Clock(from.End + 1) is { Form: ClockForm.Marked } other && EndsAt(other.End) ? other : null;

    private TimesSaid? Said(int at, ClockSaid from, ClockSaid? to, bool isSaid, bool isAfterDay)
    {
        var end = to?.End ?? from.End;
        // "09.00-17.00 hrs", "de 9 à 11 heures"
        if (to is not null && After(words.OClock, end) is { } hours)
            (end, isSaid) = (hours, true);
        if (!EndsAt(end))
            return null;
        var isMarked = from.Form == ClockForm.Marked || to?.Form == ClockForm.Marked;
        var isPair = to is not null;
        var digits = FirstDigits(at);
        var (isClear, mayBeTitle) = (isMarked || isSaid, false);
        if (!isMarked && (IsPriced(digits, end) || (!isSaid && IsCounted(digits)) || words.Units.At(tokens, end) >= 0))
            return null;
        if (isMarked && IsPriced(digits, end))
            return null;
        // "4–5 Dec" and "3 Dec" are days.
        if ((to ?? from).Form == ClockForm.Bare && MonthAt(end) is not null)
            return null;
        int strength;
        if (isClear)
        {
            strength = Sure;
            // "At 10 Downing Street" is a place, and John 3:16 is no time.
            mayBeTitle = (isSaid && to is null && from.Form == ClockForm.Bare && end < tokens.Length && char.IsUpper(text[tokens[end].Start])) || (!isSaid && !isAfterDay && from is { Half: HalfOfDay.None, IsExact: false } && from.Minute % 5 != 0 && to is null);
        }
        else if (from.Form == ClockForm.FourDigits)
        {
            var isYear = from.Hour is 19 or 20 && from.Hour * 100 + from.Minute >= 1950;
            if (from.Minute % 5 != 0 || (isYear && !isAfterDay))
                return null;
            (strength, mayBeTitle) = isAfterDay || isPair ? (Likely, isYear) : (Weak, true);
        }
        else if (from.Form == ClockForm.Dotted || to?.Form == ClockForm.Dotted)
        {
            // 5.12 may be the fifth of December, and 3.4 a section.
            (strength, mayBeTitle) = (Likely, !isAfterDay && from.Minute % 5 != 0);
        }
        else if (!isPair)
        {
            if (!isAfterDay || from.Hour == 0)
                return null;
            strength = Likely - 1;
        }
        else
        {
            var isGlued = from.End + 2 >= end && !tokens[from.End].SpaceBefore && !tokens[end - 1].SpaceBefore;
            mayBeTitle = !isAfterDay && (!isGlued || IsPlural(digits - 1));
            strength = isAfterDay ? Likely : mayBeTitle ? Weak : Likely;
        }
        // 24 hours are how long something is, or when it ends.
        if (to is null && from.Hour == 24 && tokens[from.End - 1].Kind != TokenKind.Number && tokens[digits < tokens.Length ? digits : at].Number == 24)
            return null;
        if (IsTitleByChoice(at, end))
            return null;
        var readings = Readings(from, to);
        if (readings.IsEmpty)
            return null;
        var limit = words.TwelveHours ? to is null && from.Form == ClockForm.Bare ? 7 : 5 : 40;
        return new TimesSaid([.. readings.Where(r => r.Cost - readings[0].Cost < limit)], strength, mayBeTitle, end);
    }

    private bool IsTitleByChoice(int from, int to) =>
        context.Kept.Count > 0 && context.Kept.GetValueOrDefault(LineReader.KeyOf(TextOf(from, to))) is "";

    private int FirstDigits(int at)
    {
        while (at < tokens.Length && tokens[at].Kind != TokenKind.Number)
            at++;
        return at;
    }

    /// <summary>
    /// The sense of a school's day: what begins by day is likelier than what begins at night, what ends the same day likelier
    /// than what does not, and hours likelier than half a day.
    /// </summary>
    private ImmutableArray<TimesRead> Readings(ClockSaid from, ClockSaid? to)
    {
        var all = new List<TimesRead>();
        foreach (var start in from.Meanings())
        {
            // "Midnight" ends the day it is said of.
            if (start >= 1440 && to is null)
                return [new TimesRead(1440, null, 0), new TimesRead(0, null, 1)];
            var cost = (start / 60) switch { < 5 => 30, 5 => 12, 6 => 4, < 18 => 0, < 20 => 3, 20 => 6, 21 => 8, _ => 12 }
                + (isEvening ? (start / 60) switch { < 8 => 40, 8 => 10, 9 => 5, _ => 0 } : 0) + (isMorning && start >= 720 ? 40 : 0);
            if (to is null)
            {
                all.Add(new TimesRead(start, null, cost));
                continue;
            }
            foreach (var meant in to.Value.Meanings())
            {
                var isMidnight = meant % 1440 == 0;
                var end = meant <= start || isMidnight ? meant % 1440 + 1440 : meant;
                var length = end - start;
                all.Add(new TimesRead(start, end, cost + (end > 1440 || length == 1440 ? 100 : 0) + length switch { > 720 => 40, >= 660 => 20, _ => 0 }));
            }
        }
        return [.. all.OrderBy(r => r.Cost)];
    }

    private ClockSaid? Clock(int at)
    {
        if (at >= tokens.Length)
            return null;
        if (words.Spoken(tokens, at, words) is var (spokenHour, spokenMinute, spokenEnd))
            return WithHalf(new ClockSaid(spokenHour, spokenMinute, HalfOfDay.None, ClockForm.Marked, !words.TwelveHours && spokenHour >= 6, spokenEnd));
        if (words.Noon.At(tokens, at) is >= 0 and var noon)
            return new ClockSaid(12, 0, HalfOfDay.None, ClockForm.Marked, true, noon);
        if (words.Midnight.At(tokens, at) is >= 0 and var midnight)
            return new ClockSaid(24, 0, HalfOfDay.None, ClockForm.Marked, true, midnight);
        var token = tokens[at];
        if (token.Kind != TokenKind.Number || token.Text.Length > 4 || (at > 0 && IsGlued(at) && tokens[at - 1] is { Kind: TokenKind.Number or TokenKind.Word } && !IsTimeMark(at - 1)))
            return null;
        if (token.Text.Length >= 3)
        {
            var run = new ClockSaid(token.Number / 100, token.Number % 100, HalfOfDay.None, ClockForm.FourDigits, token.Text.Length == 4, at + 1);
            var halved = WithHalf(run with { IsExact = false });
            if (halved is { Half: not HalfOfDay.None })
                return halved;
            // "0930 hrs"
            var said = words.OClock.At(tokens, at + 1) is >= 0 and var hours && token.Text.Length == 4 ? run with { End = hours, Form = ClockForm.Marked } : run;
            return token.Text.Length == 4 && Fits(said) ? said : null;
        }
        var clock = new ClockSaid(token.Number, 0, HalfOfDay.None, ClockForm.Bare, token.Number >= 13 || token.Number == 0 || token.Text[0] == '0', at + 1);
        if (IsGlued(at + 1) && tokens[at + 1].Text is ":" or "." && IsGlued(at + 2) && tokens[at + 2] is { Kind: TokenKind.Number, Text.Length: 2 } minutes)
        {
            clock = clock with { Minute = minutes.Number, Form = tokens[at + 1].Is(":") ? ClockForm.Marked : ClockForm.Dotted, End = at + 3 };
            if (!words.TwelveHours && token.Number >= 6)
                clock = clock with { IsExact = true };
        }
        else if (IsGlued(at + 1) && After(words.About, at + 1) is { } about)
        {
            clock = clock with { Form = ClockForm.Marked, End = about };
        }
        else if (at + 1 < tokens.Length && words.HourMark.At(tokens, at + 1) is >= 0 and var mark && (IsGlued(at + 1) || !words.TwelveHours))
        {
            clock = clock with { Form = ClockForm.Marked, End = mark, IsExact = clock.IsExact || (!words.TwelveHours && token.Number >= 6) };
            if (mark < tokens.Length && tokens[mark] is { Kind: TokenKind.Number, Text.Length: 2 } after && after.Number < 60 && (IsGlued(mark) || !words.TwelveHours) && EndsAt(mark + 1, orDash: true))
                clock = clock with { Minute = after.Number, End = mark + 1 };
            // "2h" in English is how long it is.
            else if (words.TwelveHours && token.Number < 7)
                return null;
        }
        return WithHalf(clock) is { } whole && Fits(whole) ? whole : null;
    }

    private static bool Fits(ClockSaid clock) =>
        clock.Minute < 60 && (clock.Half != HalfOfDay.None ? clock.Hour is >= 1 and <= 12 : clock.Hour < 24 || clock is { Hour: 24, Minute: 0 });

    /// <summary>With the "pm", "p.m.", "in the evening" that may follow.</summary>
    private ClockSaid? WithHalf(ClockSaid clock)
    {
        var i = clock.End;
        if (i < tokens.Length && (tokens[i].Text is "am" or "pm" || (IsGlued(i) && tokens[i].Text is "a" or "p" && text[tokens[i].Start] is 'a' or 'p' && (clock.Form != ClockForm.Bare || tokens[i].Is("p") || (i > 1 && IsGlued(i - 1)) || (i + 1 < tokens.Length && IsGlued(i + 1) && tokens[i + 1].Text is "-" or "–")) && EndsAt(i + 1, orDash: true))))
            return Halved(clock, tokens[i].Text[0] == 'p', i + 1);
        if (i + 2 < tokens.Length && tokens[i].Text is "a" or "p" && tokens[i + 1].Is(".") && IsGlued(i + 1) && tokens[i + 2].Is("m"))
            return Halved(clock, tokens[i].Is("p"), i + 3 < tokens.Length && tokens[i + 3].Is(".") && IsGlued(i + 3) ? i + 4 : i + 3);
        if (words.InTheMorning.At(tokens, i) is >= 0 and var morning)
            return Halved(clock, false, morning);
        if (words.InTheAfternoon.At(tokens, i) is >= 0 and var afternoon)
            return Halved(clock, true, afternoon);
        return clock;
    }

    private static ClockSaid? Halved(ClockSaid clock, bool isAfternoon, int end)
    {
        // "19:00 pm" and "14h de l'après-midi" say it twice.
        if (clock is { Hour: > 12 and < 24, Form: not ClockForm.Bare } && isAfternoon)
            return clock with { Form = ClockForm.Marked, IsExact = true, End = end };
        var halved = clock with { Half = isAfternoon ? HalfOfDay.Afternoon : HalfOfDay.Morning, Form = ClockForm.Marked, IsExact = false, End = end };
        return Fits(halved) ? halved : null;
    }

    // The T of 2026-12-09T10:00 (ISO 8601).
    private bool IsTimeMark(int at) => at > 0 && tokens[at].Is("t") && IsGlued(at) && tokens[at - 1].Kind == TokenKind.Number;

    private bool IsGlued(int at) => at < tokens.Length && !tokens[at].SpaceBefore;

    /// <summary>Whether the number at a position counts things: chapters 3-4, Year 9, p. 4–9.</summary>
    private bool IsCounted(int at)
    {
        var i = at - 1;
        if (Enumerable.Range(Math.Max(0, at - 3), at - Math.Max(0, at - 3)).Any(j => After(words.ThisWeek, j) == at || After(words.NextWeek, j) == at))
            return false;
        // Back over "3, 4 and" to what is counted.
        while (i >= 1 && ((tokens[i].Text is "-" or "–" or "," or "/") || words.And.Has(tokens[i].Text) || words.To.Has(tokens[i].Text)) && tokens[i - 1].Kind == TokenKind.Number)
            i -= 2;
        if (i >= 1 && tokens[i].Text is "." or "°" or "º" or "#" or ":")
            i--;
        return i >= 0 && (tokens[i].Text is "#" or "№" or "x" or "×" or "u" || words.Counted.Has(tokens[i].Text)
            || (tokens[i].Text is "-" && IsGlued(i) && i > 0 && words.Counted.Has(tokens[i - 1].Text)));
    }

    private bool IsPriced(int at, int end) =>
        (at > 0 && tokens[at - 1].Text is "$" or "€" or "£" or "~" or "№")
        || (end < tokens.Length && tokens[end].Text is "$" or "€" or "£" or "%" or "°" or "×" or "chf" or "eur" or "cad");

    private bool IsPlural(int at) =>
        at >= 0 && tokens[at] is { Kind: TokenKind.Word, Text.Length: > 3 } word && (word.Text[^1] is 's' or 'x') && !word.Text.EndsWith("ss", StringComparison.Ordinal) && words.Weekday(word.Text) == IsoDayOfWeek.None && words.WeekdayOfAll(word.Text) == IsoDayOfWeek.None && !words.WorkDays.Has(word.Text) && !words.Weekends.Has(word.Text) && !words.SchoolDays.Has(word.Text);
}
