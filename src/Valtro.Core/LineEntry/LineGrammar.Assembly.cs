using System.Collections.Immutable;
using System.Globalization;
using NodaTime;
using Valtro.Core.Events;
using Valtro.Core.Recurrence;
using Valtro.Core.SchoolYears;
using Valtro.Core.Time;

namespace Valtro.Core.LineEntry;

internal sealed partial class LineGrammar
{
    private LineReading Assemble(List<Candidate> chosen, List<Candidate>[] candidates)
    {
        chosen = [.. chosen.SelectMany(Apart)];
        var doubts = new List<LineDoubt>();
        var when = Of<WhenSaid>(chosen);
        var repeat = Of<RepeatSaid>(chosen);
        var end = Of<EndSaid>(chosen);
        var times = Of<TimesSaid>(chosen);
        LineProblem? problem = null;
        void Fail(string code, string message, int from, int to) => problem ??= new LineProblem(code, message, tokens[from].Start, tokens[to - 1].End - tokens[from].Start);
        if ((when?.Said.IsNoDay ?? false) || (end?.Said.IsNoDay ?? false))
        {
            var (from, to) = when is { Said.IsNoDay: true } ? (when.Value.Part.From, when.Value.Part.To) : (end!.Value.Part.From, end.Value.Part.To);
            var error = new InvalidInputException("no_such_day", "text", $"“{TextOf(from, to)}” is no day: its month has fewer.");
            Fail(error.Code, error.Message, from, to);
        }
        var items = when is { Said.Items: { Length: > 0 } named } ? named : [new WhenItem(context.Day, context.Day)];
        var isAllDay = chosen.Any(c => c.Value is AllDaySaid);
        var said = times is { } apart ? (apart.Said, At: apart.Part.From, apart.Part.To) : when is { } beside && items[0].Times is { } together ? (Said: together, At: items.Length == 1 ? beside.Part.Parts[0].To : beside.Part.From, beside.Part.To) : ((TimesSaid Said, int At, int To)?)null;
        var reading = said is var (itsTimes, timesAt, timesTo) ? Meant(itsTimes, timesAt, timesTo, items.Length == 1 ? doubts : []) : (TimesRead?)null;
        var isDue = (when?.Said.IsBy ?? false) || (said is { } limit && words.By.At(tokens, FirstWord(limit.At)) >= 0) || Enumerable.Range(0, tokens.Length).Any(i => words.Deadline.At(tokens, i) >= 0 && IsTitle(i, chosen));
        var length = Of<LengthSaid>(chosen)?.Said.Length;
        var facts = new EventFacts
        {
            Tags = [.. chosen.Select(c => c.Value).OfType<string>().Distinct(StringComparer.OrdinalIgnoreCase).Take(EventFacts.MaxTags)],
            CategoryId = chosen.Select(c => c.Value).OfType<CategorySaid>().Select(c => (Guid?)c.Id).FirstOrDefault(),
            AlsoIn = [.. chosen.Select(c => c.Value).OfType<CalendarSaid>().Select(c => c.Id).Distinct()],
        };
        var parts = Parts(chosen, out var title);
        var place = chosen.Select(c => c.Value).OfType<PlaceSaid>().FirstOrDefault()?.Name.Trim().TrimEnd(',', ';') ?? "";

        EventDraft Draft(WhenItem item)
        {
            var itsReading = item.Times is { } own && items.Length > 1 ? own.Readings[0] : reading;
            var rule = repeat is { Said: var r } ? new RecurrenceRule(r.Frequency, r.Interval, r.Days, null, null, by: r.By) : null;
            var days = length is { Days: > 0 and var more } ? item.First.PlusDays(more - 1) : item.Last;
            EventTiming timing;
            if (item is { From: { } from, To: { } to })
                timing = EventTiming.Zoned(item.First.At(from), item.Last.At(to), context.Zone);
            else if (itsReading is { } clock && !isAllDay)
                timing = Timed(item.First, clock, length, isDue);
            else
                timing = EventTiming.AllDay(item.First, rule is not null && days > item.First && length is null ? item.First : days);
            if (rule is null && itsReading is not null && !isAllDay && item.From is null && item.Last > item.First)
                return Series(timing, new RecurrenceRule(Frequency.Daily, 1, WeekdaySet.Empty, null, new RuleEnd(item.Last)), null);
            return rule is null ? Series(timing, null, null) : Series(timing, Ended(timing, rule, item), Following(repeat!.Value.Said, chosen));
        }

        EventDraft Series(EventTiming timing, RecurrenceRule? rule, SchoolDayRule? follows)
        {
            var draft = new EventDraft(title, place, "", timing, rule, follows, facts);
            return draft with { Timing = Event.InStep(draft).Timing };
        }

        RecurrenceRule Ended(EventTiming timing, RecurrenceRule rule, WhenItem item)
        {
            if (repeat is { Said.Window: { } window })
                return rule.WithEnd(null, new RuleEnd(window.Last));
            if (end is not { Said: var ends })
                return item.Last > item.First && length is null ? rule.WithEnd(null, new RuleEnd(item.Last)) : rule;
            if (ends.During is { } during)
                return rule.WithEnd(null, new RuleEnd(Event.InStep(new EventDraft(title, place, "", timing, rule, null, facts)).Timing.Start.Date.Plus(during).PlusDays(-1)));
            var until = ends.Until;
            while (until is { } day && !ends.HasYear && day < timing.Start.Date && day.Year < timing.Start.Year + 2)
                until = day.PlusYears(1);
            return rule.WithEnd(ends.Count, until is { } last ? new RuleEnd(last) : null);
        }

        var drafts = new List<EventDraft>();
        try
        {
            if (repeat is { Said.Window: { } inside })
                items = [new WhenItem(inside.First, inside.First)];
            if (chosen.Select(c => c.Value).OfType<ExceptSaid>().FirstOrDefault() is { Days: var without } && repeat is { Said: { Frequency: Frequency.Daily or Frequency.Weekly, Interval: 1 } all } every2)
            {
                var kept = (all.Days.IsEmpty ? WeekEnd.InOrder().Aggregate(WorkWeek, (days, day) => days.With(day)) : all.Days).InOrder().Where(d => !without.Contains(d)).ToArray();
                if (kept.Length > 0)
                    repeat = (all with { Frequency = Frequency.Weekly, Days = WeekdaySet.Of(kept) }, every2.Part);
            }
            // "3rd Thu monthly", "Tue/Thu 2-3 weekly": the weekdays are the repeat's.
            if (repeat is { Said: { Frequency: Frequency.Monthly, By.IsEmpty: true } monthly } every0 && chosen.Select(c => c.Value).OfType<ByParts>().FirstOrDefault() is { } nth)
                repeat = (monthly with { By = nth }, every0.Part);
            if (repeat is { Said: { Frequency: Frequency.Weekly, Days.IsEmpty: true } weekly } every1 && items.Length > 1)
            {
                repeat = (weekly with { Days = WeekdaySet.Of([.. items.Select(i => i.First.DayOfWeek)]) }, every1.Part);
                items = [items.MinBy(i => i.First)!];
            }
            drafts.AddRange(items.Select(Draft));
        }
        catch (InvalidInputException error)
        {
            Fail(error.Code, error.Message, 0, tokens.Length);
            drafts = [new EventDraft(title, place, "", EventTiming.AllDay(context.Day, context.Day), null, null, facts)];
        }
        if (when is { } dated)
            DoubtDays(dated.Said, dated.Part, items, said is null || isAllDay ? null : (said.Value.At, said.Value.To, reading), repeat is null, doubts);
        if (repeat is { Said.Rival: { } rival } and { } every)
            Doubt(doubts, LineDoubtKind.EveryOther, every.Part.From, every.Part.To, [new LineRival(rival)], canBeKept: true);
        if (end is { Said: { Rival: { } before, Until: not null } } and { } ended)
            Doubt(doubts, LineDoubtKind.UntilWhen, ended.Part.From, ended.Part.To, [new LineRival($"{words.SaysUntil} {words.Spell(before)}")], canBeKept: false);
        DoubtTitle(chosen, candidates, doubts);
        return new LineReading(drafts[0], parts)
        {
            More = [.. drafts.Skip(1)],
            Doubts = [.. doubts.OrderBy(d => d.Start)],
            Problem = problem,
        };
    }

    // A repeat and its time, read together, are two.
    private static IEnumerable<Candidate> Apart(Candidate candidate) => candidate.Value is not (RepeatSaid repeat, TimesSaid times) ? [candidate]
        // What the person said it means stands in its place as one.
        : candidate.Parts.Length == 1 ? [candidate with { Value = repeat, Takes = Slots.Repeat }, candidate with { Value = times, Takes = Slots.Times, Parts = [] }]
        : [candidate with { To = repeat.End, Takes = Slots.Repeat, Parts = [candidate.Parts[0]], Value = repeat }, candidate with { From = repeat.End, Takes = Slots.Times, Parts = [candidate.Parts[1]], Value = times }];

    private static (T Said, Candidate Part)? Of<T>(List<Candidate> chosen)
        where T : class =>
        chosen.FirstOrDefault(c => c.Value is T) is { } found ? ((T)found.Value, found) : null;

    // Where the words of a time begin: after the comma before them.
    private int FirstWord(int at)
    {
        while (at < tokens.Length - 1 && tokens[at].Kind == TokenKind.Sign)
            at++;
        return at;
    }

    private EventTiming Timed(LocalDate day, TimesRead clock, Period? length, bool isDue)
    {
        // What is due at midnight is due at the end of that day.
        if (isDue && clock is { From: 1440, To: null })
            return EventTiming.Zoned(day.At(new LocalTime(23, 59)), day.At(new LocalTime(23, 59)), context.Zone);
        var from = day.PlusDays(clock.From / 1440).At(clock.Start);
        var to = clock.End is { } end ? day.PlusDays(clock.DaysOver).At(end) : length is { Days: 0 } ? from + length : isDue ? from : from + LineReader.DefaultLength;
        return EventTiming.Zoned(from, to, context.Zone);
    }

    private SchoolDayRule? Following(RepeatSaid said, List<Candidate> chosen)
    {
        var closures = chosen.Select(c => c.Value).OfType<ClosuresSaid>().FirstOrDefault();
        if (said.Follows is not null)
            return said.Follows;
        var areLeftOut = closures is { AreKept: false } || (context.LeavesOutClosures && closures is null && said.Frequency != Frequency.Yearly);
        return areLeftOut ? SchoolDayRule.Of(SchoolDayChoice.AnyDay, ClosureChoice.LeaveOut, [], []) : null;
    }

    /// <summary>The way a time is taken: as the person said before, else the likeliest, with its doubt.</summary>
    private TimesRead Meant(TimesSaid said, int at, int to, List<LineDoubt> doubts)
    {
        var from = FirstWord(at);
        if (context.Kept.TryGetValue(LineReader.KeyOf(TextOf(from, to)), out var meant) && said.Readings.FirstOrDefault(r => r.Spelled == meant) is { Cost: >= 0 } kept && kept.Spelled == meant)
            return kept;
        var rivals = ImmutableArray.CreateBuilder<LineRival>();
        rivals.AddRange(said.Readings.Skip(1).Select(r => new LineRival(r.Spelled)));
        if (said.MayBeTitle)
            rivals.Add(new LineRival(null));
        if (rivals.Count > 0)
            Doubt(doubts, said.Readings.Length > 1 ? LineDoubtKind.HalfOfDay : LineDoubtKind.MayBeTitle, from, to, rivals.DrainToImmutable(), canBeKept: true, said.Readings[0].Spelled);
        return said.Readings[0];
    }

    private void DoubtDays(WhenSaid said, Candidate part, ImmutableArray<WhenItem> items, (int At, int To, TimesRead? Reading)? times, bool isOnce, List<LineDoubt> doubts)
    {
        var to = part.Parts[0].To;
        void Add(LineDoubtKind kind, bool canBeKept, params ReadOnlySpan<string?> rivals) => Doubt(doubts, kind, part.From, to, [.. rivals.ToArray().Select(r => new LineRival(r))], canBeKept);
        if (said.IsNoDay)
            return;
        if (said.AsTime is { } && times is not null && part.Parts[0].To == part.To && said.Items is [{ Times: null }] && tokens[part.From].Kind == TokenKind.Number)
            return;
        if (said.Disagrees is { } other)
            Add(LineDoubtKind.WeekdayDisagrees, false, words.Spell(items[0].First), words.Spell(other));
        else if (said.Rivals is [var rival, ..])
            Add(Period.DaysBetween(rival, items[0].First) > 100 ? LineDoubtKind.WhichYear : LineDoubtKind.WhichWeek, false, [.. said.Rivals.Select(words.Spell)]);
        else if (said.AsTime is { } clock && (times is null || part.Parts[0].To == part.To))
            Add(LineDoubtKind.DayOrTime, false, clock);
        else if (said.MayBeTitle)
            Add(LineDoubtKind.MayBeTitle, true, (string?)null);
        var isSpanOfTimes = isOnce && times?.Reading is not null && items is [{ From: null } first] && first.Last > first.First;
        if (isOnce && !isSpanOfTimes && said is { Habit: { } habit, Disagrees: null, MayBeTitle: false })
            Add(LineDoubtKind.OnceOrEvery, true, habit);
        // "14–16 Dec 9-12" is each of the days; it may be from the first until the last.
        if (isSpanOfTimes && times is { Reading: { } reading } && items is [{ From: null } span] && span.Last > span.First)
        {
            var isTogether = FirstWord(to) >= times.Value.At && times.Value.At >= part.From;
            var whole = $"{words.Spell(span.First)} {Clock(reading.Start)} - {words.Spell(span.Last)} {Clock(reading.End ?? reading.Start.PlusHours(1))}";
            Doubt(doubts, LineDoubtKind.EachDay, part.From, isTogether ? times.Value.To : to, isTogether ? [.. new[] { whole, said.Habit is { } each ? $"{each} {reading.Spelled}" : null }.OfType<string>().Select(r => new LineRival(r))] : [], canBeKept: false);
        }

        static string Clock(LocalTime time) => time.ToString("HH':'mm", CultureInfo.InvariantCulture);
    }

    /// <summary>What was left in the title and may as well be more.</summary>
    private void DoubtTitle(List<Candidate> chosen, List<Candidate>[] candidates, List<LineDoubt> doubts)
    {
        var end = 0;
        foreach (var candidate in candidates.SelectMany(c => c).OrderBy(c => c.From).ThenByDescending(c => c.To))
        {
            if (candidate.From < end || candidate.Value is not (WhenSaid or TimesSaid or RepeatSaid) || !Enumerable.Range(candidate.From, candidate.To - candidate.From).All(i => IsTitle(i, chosen)))
                continue;
            if (candidate is { Strength: 0, Value: WhenSaid { Items: [var item, ..] } when })
            {
                if (!chosen.Any(c => c.Takes.HasFlag(Slots.Days)))
                    Doubt(doubts, LineDoubtKind.MayBeWhen, candidate.From, when.DaysEnd, [new LineRival(words.Spell(item.First))], canBeKept: false);
            }
            else if (candidate.Strength >= Likely && candidate.Value is not WhenSaid { IsNoDay: true })
            {
                Doubt(doubts, LineDoubtKind.Several, candidate.From, candidate.To, [], canBeKept: false);
            }
            else
            {
                continue;
            }
            end = candidate.To;
        }
        for (var i = 0; i < tokens.Length; i++)
        {
            // A date that a series leaves out, a month without its day: kept in the title, and said so.
            var left = After(words.Except, i) is { } but && Day(but) is { IsBare: false } without ? without.End
                : !chosen.Any(c => c.Takes.HasFlag(Slots.Days)) && MonthAt(i) is var (_, month) && YearAt(month) is var (_, year) ? year : -1;
            if (left > 0 && IsTitle(i, chosen))
                Doubt(doubts, LineDoubtKind.LeftInTitle, i, left, [], canBeKept: false);
        }
        for (var i = 0; i < tokens.Length; i++)
        {
            if (!IsTitle(i, chosen))
                continue;
            // "in March", "every March": on which day is not said.
            if ((After(words.In, i) ?? After(words.Every, i)) is { } led && MonthAt(led) is var (_, named) && EndsAt(named) && IsTitle(led, chosen))
                Doubt(doubts, LineDoubtKind.LeftInTitle, i, named, [], canBeKept: false);
            else if (After(words.Vaguely, i) is { } vague && EndsAt(vague))
                Doubt(doubts, LineDoubtKind.LeftInTitle, i, vague, [], canBeKept: false);
            // "4:15/Varsity 6"
            else if (tokens[i].Number is >= 0 and < 24 && i + 2 < tokens.Length && tokens[i + 1].Is(":") && !tokens[i + 1].SpaceBefore && tokens[i + 2] is { SpaceBefore: false, Text.Length: 2, Number: >= 0 and < 60 } && IsTitle(i + 2, chosen))
                Doubt(doubts, LineDoubtKind.LeftInTitle, i, i + 3, [], canBeKept: false);
            else if (!chosen.Any(c => c.Takes.HasFlag(Slots.Days)) && WeekdayOfWhom(i) is { } day)
                Doubt(doubts, LineDoubtKind.MayBeWhen, i, i + 1, [new LineRival(words.Spell(day))], canBeKept: false);
        }
        // "Morning coffee 10": a bare number at the end may be when it begins.
        var last = tokens.Length - 1;
        if (last > 0 && tokens[last].Number is >= 7 and <= 12 and var hour && tokens[last].SpaceBefore && tokens[last - 1].Kind == TokenKind.Word && IsTitle(last, chosen) && IsTitle(last - 1, chosen)
            && !chosen.Any(c => c.Takes.HasFlag(Slots.Times)) && After(words.Counted, last - 1) is null && doubts.All(d => d.Start + d.Length <= tokens[last].Start))
        {
            Doubt(doubts, LineDoubtKind.MayBeWhen, last, last + 1, [new LineRival($"{hour}:00")], canBeKept: false);
        }
        for (var i = 0; i < tokens.Length; i++)
        {
            if (After(LineWords.Elsewhere, i) is { } foreign && IsTitle(i, chosen))
                Doubt(doubts, LineDoubtKind.OtherLanguage, i, foreign, [], canBeKept: false);
        }
        // "Until 4pm": from when is not said.
        for (var i = 0; i + 1 < tokens.Length; i++)
        {
            if (After(words.Reaching, i) is { } reached && IsTitle(i, chosen) && chosen.Any(c => c.From == reached && c.Takes == Slots.Times))
                Doubt(doubts, LineDoubtKind.LeftInTitle, i, reached, [], canBeKept: false);
        }
        // "Wed 3-4 for 8 weeks" without a repeat.
        foreach (var candidate in candidates.SelectMany(c => c).Where(c => c.Value is EndSaid { Until: null, IsNoDay: false } && Enumerable.Range(c.From, c.To - c.From).All(i => IsTitle(i, chosen))))
            Doubt(doubts, LineDoubtKind.LeftInTitle, candidate.From, candidate.To, [], canBeKept: false);
        // "Sat 9, 10 and 11am"
        foreach (var candidate in chosen.Where(c => c.Takes.HasFlag(Slots.Times) && c.From > 1))
        {
            if (words.And.Has(tokens[candidate.From - 1].Text) && tokens[candidate.From - 2].Kind == TokenKind.Number && IsTitle(candidate.From - 2, chosen))
                Doubt(doubts, LineDoubtKind.LeftInTitle, candidate.From - 2, candidate.From - 1, [], canBeKept: false);
        }
    }

    // "Thursday's quiz": on that day, or about it.
    private LocalDate? WeekdayOfWhom(int at)
    {
        var word = tokens[at].Text;
        if (words.Possessive.Length == 0 || !word.EndsWith(words.Possessive, StringComparison.Ordinal))
            return null;
        var name = word[..^words.Possessive.Length];
        var day = Array.IndexOf(words.Weekdays, name) + 1;
        return day == 0 ? null : context.Day.DayOfWeek == (IsoDayOfWeek)day ? context.Day : context.Day.Next((IsoDayOfWeek)day);
    }

    private static bool IsTitle(int at, List<Candidate> chosen) => !chosen.Any(c => c.From <= at && at < c.To);

    private void Doubt(List<LineDoubt> doubts, LineDoubtKind kind, int from, int to, ImmutableArray<LineRival> rivals, bool canBeKept, string? asRead = null) =>
        doubts.Add(new LineDoubt(kind, tokens[from].Start, tokens[to - 1].End - tokens[from].Start, rivals) { CanBeKept = canBeKept, AsRead = asRead });

    /// <summary>The parts in order, and the title; signs that only set parts apart go with the part beside them.</summary>
    private ImmutableArray<LinePart> Parts(List<Candidate> chosen, out string title)
    {
        var kinds = new LinePartKind[tokens.Length];
        var owner = new int[tokens.Length];
        var count = 0;
        foreach (var candidate in chosen)
        {
            var from = candidate.From;
            foreach (var (kind, to) in candidate.Parts)
            {
                count++;
                for (; from < to; from++)
                    (kinds[from], owner[from]) = (kind, count);
            }
        }
        for (var i = 0; i < tokens.Length; i++)
        {
            if (owner[i] != 0)
                continue;
            var end = i;
            while (end < tokens.Length && owner[end] == 0)
                end++;
            GiveSigns(kinds, owner, i, end);
            i = end - 1;
        }
        var parts = new List<LinePart>();
        var titles = new List<string>();
        for (var i = 0; i < tokens.Length;)
        {
            var end = i + 1;
            while (end < tokens.Length && owner[end] == owner[i])
                end++;
            parts.Add(new LinePart(owner[i] == 0 ? LinePartKind.Title : kinds[i], tokens[i].Start, tokens[end - 1].End - tokens[i].Start));
            if (owner[i] == 0)
                titles.Add(string.Join(' ', TextOf(i, end).Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries)));
            i = end;
        }
        title = string.Join(' ', titles).Replace("( ", "(", StringComparison.Ordinal).Replace(" )", ")", StringComparison.Ordinal);
        return [.. parts];
    }

    private void GiveSigns(LinePartKind[] kinds, int[] owner, int from, int to)
    {
        var (first, last) = (from, to);
        bool Has(int at, string signs) => tokens[at].Kind == TokenKind.Sign && tokens[at].Text.Length == 1 && signs.Contains(tokens[at].Text[0]);
        // A run of nothing but signs is no title.
        if (to - from < tokens.Length && Enumerable.Range(from, to - from).All(i => tokens[i].Kind == TokenKind.Sign && char.IsAscii(tokens[i].Text[0])))
            first = from > 0 ? to : from;
        if (from > 0)
        {
            while (first < last && (Has(first, ",;:|·•/") || (Has(first, "-–—") && (first + 1 == tokens.Length || tokens[first + 1].SpaceBefore || tokens[first].SpaceBefore)) || (Has(first, ".") && IsGlued(first)) || Has(first, "&") || (Has(first, ")]") && !HasOpen(first, owner))))
                first++;
        }
        if (to < tokens.Length)
        {
            while (last > first && (Has(last - 1, ",;:|·•") || (Has(last - 1, "-–—") && tokens[last - 1].SpaceBefore) || (Has(last - 1, "&") && tokens[last - 1].SpaceBefore) || (Has(last - 1, "([") && ClosesWithin(last - 1, owner))))
                last--;
        }
        for (var i = from; i < first; i++)
            (kinds[i], owner[i]) = (kinds[from - 1], owner[from - 1]);
        for (var i = last; i < to; i++)
            (kinds[i], owner[i]) = (kinds[to], owner[to]);
    }

    // Whether nothing but parts stands between a bracket and its end.
    private bool ClosesWithin(int at, int[] owner)
    {
        for (var i = at + 1; i < tokens.Length; i++)
        {
            if (tokens[i].Text is ")" or "]")
                return true;
            if (owner[i] == 0 && tokens[i].Kind != TokenKind.Sign)
                return false;
        }
        return true;
    }

    // Whether a bracket was opened in the title before and not closed.
    private bool HasOpen(int at, int[] owner)
    {
        var open = 0;
        for (var i = 0; i < at; i++)
        {
            if (owner[i] == 0)
                open += tokens[i].Text is "(" or "[" ? 1 : tokens[i].Text is ")" or "]" ? -1 : 0;
        }
        return open > 0;
    }
}
