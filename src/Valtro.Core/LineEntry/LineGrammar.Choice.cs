using System.Collections.Immutable;
using NodaTime;

namespace Valtro.Core.LineEntry;

/// <summary>What a line can say once only.</summary>
[Flags]
internal enum Slots
{
    None = 0,
    Days = 1,
    Times = 2,
    Repeat = 4,
    End = 8,
    Length = 16,
    Place = 32,
    Category = 64,
    Closures = 128,
    Except = 256,
}

/// <summary>Words of a line as one or several parts.</summary>
/// <param name="From">The first token.</param>
/// <param name="To">The token after the last.</param>
/// <param name="Takes">What it says.</param>
/// <param name="Strength">How surely.</param>
/// <param name="Parts">What its words are, one after the other: each kind with the token it ends at.</param>
/// <param name="Value">What was read.</param>
internal sealed record Candidate(int From, int To, Slots Takes, int Strength, ImmutableArray<(LinePartKind Kind, int To)> Parts, object Value)
{
    /// <summary>What the line must say besides, for this to mean something.</summary>
    public Slots Needs { get; init; }

    /// <summary>What it is without: a limit is no start where something else is the time.</summary>
    public Slots Not { get; init; }
}

internal sealed partial class LineGrammar
{
    // A part outweighs any number of words of a place, a longer one a shorter, and of two alike the first is taken.
    private const int Weight = 1_000_000;
    private const int WeightOfToken = 1_000;

    /// <summary>Reads the line: of all that can stand at each word, what together explains most of it.</summary>
    public LineReading Read()
    {
        var candidates = new List<Candidate>[tokens.Length];
        for (var at = 0; at < tokens.Length; at++)
            candidates[at] = StartsAt(at) ? [.. Candidates(at)] : [];
        return Assemble(Choose(candidates), candidates);
    }

    private List<Candidate> Choose(List<Candidate>[] candidates)
    {
        // The best way to each word by what was said until there, and by what that needs or forbids.
        var ways = new Dictionary<State, Way>[tokens.Length + 1];
        for (var i = 0; i <= tokens.Length; i++)
            ways[i] = [];
        ways[0][default] = new Way(0, null);
        for (var at = 0; at < tokens.Length; at++)
        {
            foreach (var (state, way) in ways[at])
            {
                Reach(at + 1, state, way);
                foreach (var candidate in candidates[at])
                {
                    if ((state.Said & candidate.Takes) == 0 && candidate.Strength > 0)
                        Reach(candidate.To, new State(state.Said | candidate.Takes, state.Needs | candidate.Needs, state.Not | candidate.Not), new Way(way.Score + candidate.Strength * Weight + (candidate.To - candidate.From) * WeightOfToken - candidate.From, new Step(candidate, way.Last)));
                }
            }
        }
        var best = ways[^1].Where(w => (w.Key.Needs & ~w.Key.Said) == 0 && (w.Key.Not & w.Key.Said) == 0).MaxBy(w => w.Value.Score).Value;
        var chosen = new List<Candidate>();
        for (var step = best.Last; step is not null; step = step.Before)
            chosen.Insert(0, step.Candidate);
        return chosen;

        void Reach(int to, State state, Way way)
        {
            if (!ways[to].TryGetValue(state, out var known) || known.Score < way.Score)
                ways[to][state] = way;
        }
    }

    private readonly record struct State(Slots Said, Slots Needs, Slots Not);

    private readonly record struct Way(int Score, Step? Last);

    private sealed record Step(Candidate Candidate, Step? Before);

    private IEnumerable<Candidate> Candidates(int at)
    {
        foreach (var candidate in Plain(at))
        {
            if (AsKept(candidate) is { } kept)
                yield return kept;
        }
        foreach (var candidate in Signed(at))
            yield return candidate;
    }

    private IEnumerable<Candidate> Plain(int at)
    {
        foreach (var when in IsWithoutDays(at) ? [] : Whens(at))
        {
            var times = when.Items is [{ Times: not null }] ? Slots.Times : when.Items.Any(i => i.Times is not null || i.From is not null) ? Slots.Times | Slots.Length : Slots.None;
            var parts = when.Items is [{ Times: not null }] && when.DaysEnd < when.End ? [(LinePartKind.Date, when.DaysEnd), (LinePartKind.Time, when.End)] : ImmutableArray.Create((LinePartKind.Date, when.End));
            yield return new Candidate(at, when.End, Slots.Days | times, when.Strength, parts, when) { Not = when.Items.Length > 1 && when.Habit is null ? Slots.Repeat | Slots.End : Slots.None };
        }
        if (Times(at, isAfterDay: false) is { } said)
            yield return new Candidate(at, said.End, Slots.Times, said.Strength, [(LinePartKind.Time, said.End)], said);
        if (After(words.AllDay, at) is { } allDay && EndsAt(allDay))
            yield return new Candidate(at, allDay, Slots.Times, Sure, [(LinePartKind.Time, allDay)], AllDaySaid.Instance);
        if (!IsAfterExcept(at) && Repeat(at) is { } repeat)
        {
            yield return new Candidate(at, repeat.End, repeat.Window is null ? Slots.Repeat : Slots.Repeat | Slots.Days | Slots.End, repeat.Strength, [(LinePartKind.Repeat, repeat.End)], repeat);
            // "every Fri 9": after its weekday a number is a time.
            if (repeat is { Days.IsEmpty: false, Window: null } && Times(repeat.End, isAfterDay: true) is { } bare)
                yield return new Candidate(at, bare.End, Slots.Repeat | Slots.Times, repeat.Strength + bare.Strength + 1, [(LinePartKind.Repeat, repeat.End), (LinePartKind.Time, bare.End)], (repeat, bare));
        }
        if (OrdinalsOfMonth(at, needsMonth: false) is var (by, nth, _) && EndsAt(nth))
            yield return new Candidate(at, nth, Slots.Days, 2 * Sure, [(LinePartKind.Repeat, nth)], by) { Needs = Slots.Repeat };
        if (EndOfRepeat(at) is { } end)
        {
            yield return new Candidate(at, end.End, Slots.End, Sure, [(LinePartKind.End, end.End)], end) { Needs = Slots.Repeat };
            // "Exhibition until 12 Dec" goes on until then.
            if (end is { Until: { } until } && words.Reaching.At(tokens, at) >= 0 && until >= context.Day && Period.DaysBetween(context.Day, until) <= LongestSpan)
                yield return new Candidate(at, end.End, Slots.Days, Sure, [(LinePartKind.Date, end.End)], new WhenSaid([new WhenItem(context.Day, until)], Sure, end.End, end.End)) { Not = Slots.Repeat | Slots.Times };
        }
        if (Length(at) is { } length && (length.IsSaid || length.Length.Days == 0))
            yield return new Candidate(at, length.End, Slots.Length, length.IsSaid ? Likely : Weak, [(LinePartKind.Length, length.End)], length) { Needs = length.Length.Days > 0 ? Slots.None : Slots.Times, Not = length.Length.Days > 0 ? Slots.Times : Slots.None };
        if (After(words.Except, at) is { } but && Weekdays(but, isListed: true) is var (without, last) && EndsAt(last))
            yield return new Candidate(at, last, Slots.Except, Sure, [(LinePartKind.Repeat, last)], new ExceptSaid(without)) { Needs = Slots.Repeat };
        if (After(words.OnClosuresToo, at) is { } too)
            yield return new Candidate(at, too, Slots.Closures, Sure, [(LinePartKind.Repeat, too)], ClosuresSaid.Kept) { Needs = Slots.Repeat };
        if (After(words.NotOnClosures, at) is { } not)
            yield return new Candidate(at, not, Slots.Closures, Sure, [(LinePartKind.Repeat, not)], ClosuresSaid.LeftOut) { Needs = Slots.Repeat };
    }

    // Whether the days at a position belong to words before them: every Tue and Thu, except Fri.
    private bool IsWithoutDays(int at)
    {
        // "every other week on Tue" is no week on Tuesday.
        if (at > 0 && After(words.AWeekOn, at) is not null && (words.Other.Has(tokens[at - 1].Text) || words.Every.Has(tokens[at - 1].Text) || words.Alternate.Has(tokens[at - 1].Text)))
            return true;
        if (WeekdayOrAll(at) is null && (After(words.On, at) is not { } on || WeekdayOrAll(on) is null))
            return false;
        var i = at - 1;
        while (i > 0 && (tokens[i].Is(".") || words.On.Has(tokens[i].Text) || words.WeekUnit.Has(tokens[i].Text) || words.Other.Has(tokens[i].Text) || words.And.Has(tokens[i].Text) || words.Weekday(tokens[i].Text) != IsoDayOfWeek.None))
            i--;
        return i >= 0 && (words.Every.Has(tokens[i].Text) || words.Alternate.Has(tokens[i].Text) || IsAfterExcept(i + 1));
    }

    private bool IsAfterExcept(int at) => Enumerable.Range(Math.Max(0, at - 3), at - Math.Max(0, at - 3)).Any(j => After(words.Except, j) == at);

    /// <summary>What is named by its sign: #tag, !category, +calendar, @place.</summary>
    private IEnumerable<Candidate> Signed(int at)
    {
        if (tokens[at].Kind != TokenKind.Sign || at + 1 >= tokens.Length)
            yield break;
        switch (tokens[at].Text)
        {
            case "#" when IsGlued(at + 1) && tokens[at + 1].Kind == TokenKind.Word:
                var end = Blank(at + 1);
                while (end > at + 2 && tokens[end - 1].Text is "," or "." or ";" or ":" or "!" or "?" or ")")
                    end--;
                yield return new Candidate(at, end, Slots.None, Sure, [(LinePartKind.Tag, end)], text[(tokens[at].Start + 1)..tokens[end - 1].End]);
                break;
            case "!" when IsGlued(at + 1) && Named(at + 1, context.Categories) is var (category, to):
                yield return new Candidate(at, to, Slots.Category, Sure, [(LinePartKind.Category, to)], new CategorySaid(category));
                break;
            case "+" when IsGlued(at + 1) && Named(at + 1, context.Calendars) is var (calendar, to):
                yield return new Candidate(at, to, Slots.None, Sure, [(LinePartKind.Calendar, to)], new CalendarSaid(calendar));
                break;
            case "@" when IsGlued(at + 1) || tokens[at + 1].Kind == TokenKind.Word:
                for (var to = at + 2; to <= tokens.Length; to++)
                {
                    if (tokens[to - 1].Is("@") && tokens[to - 1].SpaceBefore)
                        break;
                    if (to == tokens.Length || tokens[to].SpaceBefore || tokens[to - 1].Text is ",")
                        yield return new Candidate(at, to, Slots.Place, 1, [(LinePartKind.Place, to)], new PlaceSaid(text[tokens[at + 1].Start..tokens[to - 1].End]));
                }
                break;
        }
    }

    // Where the next blank is.
    private int Blank(int at)
    {
        while (at < tokens.Length && !tokens[at].SpaceBefore)
            at++;
        return at;
    }

    /// <summary>The longest name that stands there whole, else the only one that begins so.</summary>
    private (Guid Id, int End)? Named(int at, IReadOnlyList<LineName> names)
    {
        var longest = names.Select(n => (n.Id, End: Whole(at, n.Name))).Where(n => n.End > 0).OrderByDescending(n => n.End).FirstOrDefault();
        if (longest.End > 0)
            return longest;
        var end = Blank(at);
        var word = LineTokens.Plain(text[tokens[at].Start..tokens[end - 1].End]);
        var begins = names.Where(n => LineTokens.Plain(n.Name).StartsWith(word, StringComparison.Ordinal)).ToList();
        return begins.Count == 1 && word.Length >= 2 ? (begins[0].Id, end) : null;
    }

    private int Whole(int at, string name)
    {
        var said = LineTokens.Split(name);
        if (said.Length == 0 || at + said.Length > tokens.Length)
            return 0;
        for (var i = 0; i < said.Length; i++)
        {
            if (tokens[at + i].Text != said[i].Text || (i > 0 && tokens[at + i].SpaceBefore != said[i].SpaceBefore))
                return 0;
        }
        return EndsAt(at + said.Length) ? at + said.Length : 0;
    }

    private string TextOf(int from, int to) => text[tokens[from].Start..tokens[to - 1].End];

    /// <summary>A candidate as the person said before that it is meant; null where it is title.</summary>
    private Candidate? AsKept(Candidate candidate)
    {
        if (context.Kept.Count == 0 || !context.Kept.TryGetValue(LineReader.KeyOf(TextOf(candidate.From, candidate.To)), out var meant))
            return candidate;
        if (meant.Length == 0)
            return null;
        var other = new LineGrammar(meant, context with { Kept = ImmutableDictionary<string, string>.Empty }, words);
        return other.tokens.Length > 0 && other.Plain(0).FirstOrDefault(c => c.To == other.tokens.Length && c.Strength > Weak) is { } read
            ? read with { From = candidate.From, To = candidate.To, Parts = [(read.Parts[^1].Kind, candidate.To)] }
            : candidate;
    }

    private sealed record AllDaySaid
    {
        public static AllDaySaid Instance { get; } = new();
    }

    private sealed record ClosuresSaid(bool AreKept)
    {
        public static ClosuresSaid Kept { get; } = new(true);

        public static ClosuresSaid LeftOut { get; } = new(false);
    }

    private sealed record ExceptSaid(Recurrence.WeekdaySet Days);

    private sealed record CategorySaid(Guid Id);

    private sealed record CalendarSaid(Guid Id);

    private sealed record PlaceSaid(string Name);
}
