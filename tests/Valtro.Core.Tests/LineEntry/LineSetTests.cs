using FsCheck;
using FsCheck.Xunit;
using Valtro.Core.LineEntry;
using Valtro.Core.Time;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.LineEntry;

/// <summary>
/// Lines as people write them in letters, lists and spreadsheets, with what a colleague would make of them (lines.tsv: language,
/// line, title, when, place).
/// </summary>
public class LineSetTests(ITestOutputHelper output)
{
    private static readonly LineContext Typed = new(Day("2026-11-30"), Halifax, "en") { Terms = [(Day("2026-09-08"), Day("2026-12-18"))] };

    private static IReadOnlyList<(string Language, string Text, string Title, string When, string Place)> Lines { get; } =
        [.. File.ReadLines(Path.Combine(AppContext.BaseDirectory, "LineEntry", "lines.tsv")).Select(l => l.Split('\t')).Select(c => (c[0], c[1], c[2], c[3], c[4]))];

    private static LineReading Read(string language, string text) => LineReader.Read(text, Typed with { Language = language });

    [Theory]
    [InlineData("en", 380)]
    [InlineData("fr", 120)]
    public void Hardly_a_line_is_misread_and_hardly_one_of_those_confidently(string language, int atLeast)
    {
        var read = Lines.Where(l => l.Language == language).Select(l => (Line: l, Reading: Read(language, l.Text))).ToList();
        Assert.True(read.Count >= atLeast);
        var missed = read.Where(r => (r.Reading.Draft.Title, Said(r.Reading), r.Reading.Draft.Place) != (r.Line.Title, r.Line.When, r.Line.Place)).ToList();
        var confident = missed.Where(r => r.Reading.Doubts.IsEmpty).ToList();
        output.WriteLine($"{language}: {read.Count - missed.Count} of {read.Count} read, {missed.Count} misread, {confident.Count} of them without a doubt");
        foreach (var (line, reading) in missed)
            output.WriteLine($"{(reading.Doubts.IsEmpty ? "!" : " ")} {line.Text}: [{reading.Draft.Title}] {Said(reading)}; meant [{line.Title}] {line.When}");
        Assert.True(read.Count - missed.Count >= 0.95 * read.Count, $"{missed.Count} of {read.Count} are misread: {string.Join(" | ", missed.Select(m => m.Line.Text))}");
        Assert.True(confident.Count <= 0.01 * read.Count, $"Without a doubt: {string.Join(" | ", confident.Select(m => m.Line.Text))}");
    }

    private static string Said(LineReading reading) => reading.Problem is { } problem
        ? $"problem {problem.Code}"
        : string.Join(" ; ", reading.More.Prepend(reading.Draft).Select(d => Said(d.Timing) + (d.Rule is { } rule ? " " + rule : "") + (d.Follows is null ? "" : " on school days")));

    private static string Said(EventTiming timing)
    {
        string At(string format, LocalDateTime at) => at.ToString(format, System.Globalization.CultureInfo.InvariantCulture);
        if (timing.Kind != TimeKind.AllDay)
            return $"{At("uuuu-MM-dd HH:mm", timing.Start)}/{At("uuuu-MM-dd HH:mm", timing.End)}";
        var last = timing.End.PlusDays(-1);
        return last == timing.Start ? At("uuuu-MM-dd", timing.Start) : $"{At("uuuu-MM-dd", timing.Start)}/{At("uuuu-MM-dd", last)}";
    }

    private static string WithoutBlanks(string text) => string.Concat(text.Where(c => !char.IsWhiteSpace(c)));

    private static void HoldsAll(string text, LineReading reading)
    {
        var at = 0;
        foreach (var part in reading.Parts)
        {
            // In order, and nothing but blanks between them.
            Assert.True(part.Start >= at && part.Length > 0);
            Assert.True(string.IsNullOrWhiteSpace(text[at..part.Start]), text);
            at = part.Start + part.Length;
        }
        Assert.True(string.IsNullOrWhiteSpace(text[at..]), text);
        var titles = reading.Parts.Where(p => p.Kind == LinePartKind.Title).Select(p => text.Substring(p.Start, p.Length));
        Assert.Equal(WithoutBlanks(string.Concat(titles)), WithoutBlanks(reading.Draft.Title!));
        foreach (var doubt in reading.Doubts)
            Assert.True(doubt.Start >= 0 && doubt.Length > 0 && doubt.Start + doubt.Length <= text.Length);
    }

    [Fact]
    public void Every_beginning_of_every_line_is_read_while_it_is_typed()
    {
        foreach (var line in Lines)
        {
            for (var length = 0; length <= line.Text.Length; length++)
                HoldsAll(line.Text[..length], Read(line.Language, line.Text[..length]));
        }
    }

    // Whatever a person chooses is read as that, and is not doubted for the same reason again.
    [Fact]
    public void What_else_it_may_be_is_read_as_that_when_it_is_chosen()
    {
        var chosen = 0;
        foreach (var line in Lines)
        {
            var reading = Read(line.Language, line.Text);
            foreach (var doubt in reading.Doubts)
            {
                foreach (var rival in doubt.Rivals)
                {
                    var part = line.Text.Substring(doubt.Start, doubt.Length);
                    if (rival.Text is { } text)
                    {
                        var again = Read(line.Language, line.Text[..doubt.Start] + text + line.Text[(doubt.Start + doubt.Length)..]);
                        Assert.DoesNotContain(again.Doubts, d => d.Kind == doubt.Kind && d.Start == doubt.Start && doubt.Kind != LineDoubtKind.HalfOfDay);
                        Assert.DoesNotContain(again.Parts, p => p.Kind == LinePartKind.Title && p.Start < doubt.Start + text.Length && p.Start + p.Length > doubt.Start);
                    }
                    if (doubt.CanBeKept)
                    {
                        var kept = LineReader.Read(line.Text, Typed with { Language = line.Language, Kept = new Dictionary<string, string> { [LineReader.KeyOf(part)] = rival.Text ?? "" } });
                        Assert.False(kept.Doubts.Any(d => d.Kind == doubt.Kind && d.Start == doubt.Start && d.Length == doubt.Length), $"“{line.Text}” is in doubt again.");
                        HoldsAll(line.Text, kept);
                    }
                    chosen++;
                }
            }
        }
        Assert.True(chosen > 50);
    }

    [Property(MaxTest = 2_000)]
    public void No_text_fails_or_loses_a_character(NonNull<string> noise, int from, int length, bool inFrench)
    {
        // A piece of a line with noise in the middle, so that the grammar is met and not only the title.
        var line = Lines[Math.Abs(from % Lines.Count)].Text;
        var at = Math.Abs(length % (line.Length + 1));
        foreach (var text in new[] { noise.Get, line[..at] + noise.Get + line[at..], line[at..] + " " + line[..at] })
            HoldsAll(text, Read(inFrench ? "fr" : "en", text));
    }

    [Property(MaxTest = 500)]
    public void Words_in_any_order_are_read(int[] picks, bool inFrench)
    {
        var language = inFrench ? "fr" : "en";
        var words = Lines.Where(l => l.Language == language).SelectMany(l => l.Text.Split(' ')).ToList();
        var text = string.Join(' ', picks.Take(20).Select(p => words[(int)((uint)p % words.Count)]));
        HoldsAll(text, Read(language, text));
    }
}
