using FsCheck.Xunit;
using Valtro.Core.Publishing;
using Valtro.Core.Reach;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Publishing;

/// <summary>Colours, themes, style sheets, and how a page and an embed look.</summary>
public class LookTests
{
    [Theory]
    [InlineData("#000000", "#ffffff", 21)]
    [InlineData("#ffffff", "#ffffff", 1)]
    [InlineData("#777777", "#ffffff", 4.48)]
    [InlineData("#0000ff", "#ffffff", 8.59)]
    public void Contrast_is_that_of_the_guidelines(string a, string b, double expected)
    {
        Assert.True(Colour.TryParse(a, out var one));
        Assert.True(Colour.TryParse(b, out var other));
        Assert.Equal(expected, one.Contrast(other), 0.02);
        Assert.Equal(one.Contrast(other), other.Contrast(one));
    }

    [Theory]
    [InlineData("#1F5c4D", "#1f5c4d")]
    [InlineData("#0af", "#00aaff")]
    public void A_colour_is_read_and_written(string typed, string written)
    {
        Assert.True(Colour.TryParse(typed, out var colour));
        Assert.Equal(written, colour.ToString());
    }

    [Theory]
    [InlineData("red")]
    [InlineData("#12345")]
    [InlineData("#gggggg")]
    [InlineData("123456#")]
    [InlineData("")]
    [InlineData(null)]
    public void What_is_no_colour_is_none(string? typed) => Assert.False(Colour.TryParse(typed, out _));

    [Property(MaxTest = 3000)]
    public void The_nearest_readable_colour_is_readable_and_near(byte r, byte g, byte b, byte gr, byte gg, byte gb)
    {
        var (colour, ground) = (new Colour(r, g, b), new Colour(gr, gg, gb));
        var nearest = colour.ReadableOn(ground);
        // One of black and white reads on every ground, and it is not far from enough.
        Assert.True(nearest.Contrast(ground) >= 4.4, $"{colour} on {ground}: {nearest} has {nearest.Contrast(ground)}");
        if (colour.Contrast(ground) >= Colour.TextContrast)
            Assert.Equal(colour, nearest);
        else
            Assert.InRange(nearest.Contrast(ground), 4.4, 5.6);
    }

    [Property(MaxTest = 2000)]
    public void Whatever_is_chosen_quiet_text_can_be_read_where_ink_can(byte r, byte g, byte b, byte gr, byte gg, byte gb, byte ar, byte ag, byte ab)
    {
        var palette = new Palette(new Colour(gr, gg, gb), new Colour(r, g, b), new Colour(ar, ag, ab));
        var roles = palette.Roles();
        Assert.True(roles["quiet"].Contrast(roles["paper"]) >= Math.Min(palette.Ink.Contrast(palette.Ground), Colour.TextContrast) - 0.01);
        Assert.True(roles["main-ink"].Contrast(roles["main"]) >= 4.5);
        Assert.Equal(palette.Ink.Contrast(palette.Ground) < 4.5, palette.Weak.Any(w => w.Field == "ink"));
        Assert.All(palette.Weak, w => Assert.True(w.Contrast < 4.5 && w.Nearest.Contrast(palette.Ground) >= 4.4));
    }

    [Fact]
    public void Every_preset_can_be_read_by_day_and_by_night()
    {
        foreach (var preset in Enum.GetValues<ThemePreset>())
        {
            var theme = new OutletTheme { Preset = preset }.Checked();
            foreach (var palette in new[] { theme.Day, theme.Night })
            {
                Assert.Empty(palette.Weak);
                var roles = palette.Roles();
                foreach (var text in new[] { "ink", "quiet", "main" })
                    Assert.All(new[] { "paper", "raised", "today-wash" }, ground => Assert.True(roles[text].Contrast(roles[ground]) >= 4.5, $"{preset}: {text} on {ground}"));
            }
            Assert.False(theme.Day.IsDark);
            Assert.Equal(preset != ThemePreset.Own, theme.Night.IsDark);
        }
    }

    [Fact]
    public void A_look_that_makes_no_sense_is_refused_and_a_good_one_put_in_order()
    {
        string Wrong(PublicationLook look, OutletView first = OutletView.Month) => Code(() => look.Checked(first));
        Assert.Equal("view_unknown", Wrong(new PublicationLook { Views = [(OutletView)77] }));
        Assert.Equal("view_unknown", Wrong(new PublicationLook(), (OutletView)77));
        Assert.Equal("week_start", Wrong(new PublicationLook { WeekStart = IsoDayOfWeek.Wednesday }));
        Assert.Equal("count_range", Wrong(new PublicationLook { Count = 0 }));
        Assert.Equal("count_range", Wrong(new PublicationLook { Count = 31 }));
        Assert.Equal("news_range", Wrong(new PublicationLook { NewsDays = 61 }));
        Assert.Equal("text_too_long", Wrong(new PublicationLook { EmptyText = new string('x', 201) }));
        Assert.Equal("too_many_sites", Wrong(new PublicationLook { Sites = [.. Enumerable.Range(0, 21).Select(i => $"s{i}.example")] }));
        Assert.Equal("corner_range", Wrong(new PublicationLook { Theme = new OutletTheme { Corner = 21 } }));
        Assert.Equal("colour_malformed", Wrong(new PublicationLook { Theme = new OutletTheme { Accent = "red" } }));
        Assert.Equal("theme_unknown", Wrong(new PublicationLook { Theme = new OutletTheme { Preset = (ThemePreset)77 } }));

        var good = new PublicationLook { Views = [OutletView.List, OutletView.List], Sites = [" www.school.example ", "https://www.school.example/about", "http://127.0.0.1:4181", "*.School.example"] }.Checked(OutletView.Cards);
        Assert.Equal([OutletView.List, OutletView.Cards], good.Views);
        Assert.Equal(["https://www.school.example", "http://127.0.0.1:4181", "https://*.school.example"], good.Sites);
    }

    [Theory]
    [InlineData("https://a.example; script-src *")]
    [InlineData("https://user@a.example")]
    [InlineData("javascript:alert(1)")]
    [InlineData("*")]
    [InlineData("'unsafe-inline'")]
    [InlineData("https://")]
    [InlineData("ftp://a.example")]
    [InlineData("*.example")]
    [InlineData("https://*.a.*.example")]
    [InlineData("*.*")]
    [InlineData("https://*.a.example; script-src *")]
    public void What_is_no_site_cannot_get_into_the_policy(string typed) =>
        Assert.Equal("site_malformed", Code(() => new PublicationLook { Sites = [typed] }.Checked(OutletView.Month)));

    [Fact]
    public void A_style_sheet_keeps_colours_type_edges_and_room()
    {
        var clean = Clean("""
            h1, .bar button:hover { color: #123; font-size: 22px; padding: 4px 8px; border: 1px solid red }
            @media (max-width: 400px) { .days h3 { background-color: #eee; text-transform: uppercase } }
            .title { letter-spacing: 1px; font-weight: 700; margin: 4px 0 } a { color: rgb(10 20 30 / 100%); text-decoration: none }
            """);
        Assert.Empty(clean.Removed);
        Assert.Contains(".outlet h1, .outlet .bar button:hover { font-size: 22px", clean.Css);
        // Dark ink is for the day; nothing is said of the night, where it could not be read.
        Assert.Contains(":root.by-day .outlet h1, :root.by-day .outlet .bar button:hover { color: rgb(17, 34, 51) }", clean.Css);
        Assert.Contains("@media (prefers-color-scheme: light) {\n:root.by-reader .outlet h1", clean.Css);
        Assert.DoesNotContain("by-night .outlet h1", clean.Css);
        Assert.Contains("@media (max-width: 400px) {\n.outlet .days h3 { text-transform: uppercase }", clean.Css);
        Assert.Contains("@media (max-width: 400px) {\n:root.by-day .outlet .days h3 { background-color: rgb(238, 238, 238) }", clean.Css);
        Assert.Contains(":root.by-day .outlet a { color: rgb", clean.Css);
    }

    private static CleanStyle Clean(string css, ThemePreset preset = ThemePreset.Paper) => StyleCleaner.Clean(new OutletTheme { Css = css, Preset = preset });

    [Theory]
    // What is not seen: by colour, by what lies behind it, by size, by room, by what lies over it.
    [InlineData("h1 { color: #faf7f0 }")]
    [InlineData("h1 { color: #c8c8c8 }")]
    [InlineData("h1 { color: Canvas }")]
    [InlineData("h1 { background-color: #22302c }")]
    [InlineData("h1 { background: #22302c }")]
    [InlineData("h1 { background-color: rgb(0 0 0 / 50%) }")]
    [InlineData("h1 { color: rgb(0 0 0 / 10%) }")]
    [InlineData("h1 { color: hsl(0 0% 98%) }")]
    [InlineData("h1 { color: #0000 }")]
    [InlineData("h1 { font-size: 0.2em }")]
    [InlineData("h1 { font-size: 40% }")]
    [InlineData("h1 { font-size: xx-small }")]
    [InlineData("h1 { font-size: smaller }")]
    [InlineData("h1 { font: 3px/1 serif }")]
    [InlineData("h1 { font-weight: 1 }")]
    [InlineData("h1 { font-family: Wingdings }")]
    [InlineData("h1 { line-height: 0.1 }")]
    [InlineData("h1 { line-height: 2px }")]
    [InlineData("h1 { letter-spacing: -1em }")]
    [InlineData("h1 { letter-spacing: 60px }")]
    [InlineData("h1 { text-indent: -99px }")]
    [InlineData("h1 { box-shadow: inset 0 0 0 99px #fff }")]
    [InlineData("h1 { box-shadow: 0 -60px 0 40px #fff }")]
    [InlineData("h1 { outline: 60px solid #fff }")]
    [InlineData("h1 { outline-offset: -30px }")]
    [InlineData("h1 { border: 80px solid #fff }")]
    [InlineData("h1 { padding: 79px }")]
    [InlineData("h1 { text-shadow: 0 0 9px #000 }")]
    [InlineData("h1 { mask: linear-gradient(#000, #fff) }")]
    [InlineData("h1 { filter: blur(9px) }")]
    // What says something else.
    [InlineData(".title { text-decoration: line-through }")]
    [InlineData("s { text-decoration: none }")]
    [InlineData("li { list-style-type: 'School closed' }")]
    [InlineData("h1 { list-style: 'closed' inside }")]
    // What a parser passes over.
    [InlineData("h1 { & b { color: #fff } }")]
    [InlineData("h1 { color: light-dark(#fff, #fff) }")]
    [InlineData("h1 { background: image-set('a.png' 1x) }")]
    [InlineData("h1 { colour: red }")]
    [InlineData("h1 { color: #123 !important }")]
    [InlineData("@layer x { h1 { color: #fff } }")]
    [InlineData("@supports (color: red) { h1 { color: #fff } }")]
    [InlineData("h1 { font-size: clamp(1px, 2px, 3px) }")]
    public void What_cannot_be_read_or_says_something_else_is_taken_away_and_named(string css)
    {
        foreach (var preset in new[] { ThemePreset.Paper, ThemePreset.Own })
        {
            var clean = Clean(css, preset);
            // What reads by night may be dark there; by day nothing is left.
            Assert.DoesNotContain("by-day", clean.Css);
            // Of a shorthand the harmless rest may go out: a style of an edge, the serifs of a type.
            Assert.DoesNotMatch("(?:80|60|79|99|30|40|3|2|9)px|0\\.|-1em|40%|small|font-weight|shadow|indent|mask|filter|Wingdings|line-through|none|closed|!", clean.Css.Replace("prefers-color", "", StringComparison.Ordinal));
            Assert.NotEmpty(clean.Removed);
        }
    }

    // Whatever colours are chosen for whatever parts: those that go out read on each other and on the theme's.
    [Fact]
    public void All_colours_of_a_sheet_read_on_all_its_grounds()
    {
        var random = new Random(20261129);
        foreach (var preset in Enum.GetValues<ThemePreset>())
        {
            for (var run = 0; run < 60; run++)
            {
                var css = string.Concat(Enumerable.Range(0, 8).Select(i => $".a{i} {{ {(random.Next(2) == 0 ? "color" : "background-color")}: #{random.Next(0x1000000):x6} }} "));
                var theme = new OutletTheme { Css = css, Preset = preset };
                var clean = StyleCleaner.Clean(theme);
                foreach (var (face, palette) in preset == ThemePreset.Own ? [(".outlet", theme.Day)] : new[] { ("by-day", theme.Day), ("by-night", theme.Night) })
                {
                    List<Colour> Of(string name) => [.. System.Text.RegularExpressions.Regex.Matches(clean.Css, $@"{face}[^{{]*\{{ {name}: rgb\((\d+), (\d+), (\d+)\)").Select(m => new Colour(byte.Parse(m.Groups[1].Value), byte.Parse(m.Groups[2].Value), byte.Parse(m.Groups[3].Value)))];
                    foreach (var ink in Of("color").Append(palette.Ink))
                    {
                        foreach (var ground in Of("background-color").Append(palette.Ground))
                            Assert.True(ink.Contrast(ground) >= Colour.TextContrast, $"{preset}: {ink} on {ground}");
                    }
                }
            }
        }
    }

    [Fact]
    public void A_sheet_for_the_night_is_tried_by_night()
    {
        var clean = Clean("@media (prefers-color-scheme: dark) { h1 { color: #ffe; background: #111 } h2 { color: #123 } }");
        Assert.Contains(":root.by-night .outlet h1 { color: rgb(255, 255, 238); background-color: rgb(17, 17, 17) }", clean.Css);
        Assert.DoesNotContain("by-day", clean.Css);
        Assert.Equal(["h2: color: rgb(17, 34, 51)"], clean.Removed);
    }

    [Theory]
    // What loads.
    [InlineData("@import url(https://a.example/x.css);")]
    [InlineData("@font-face { font-family: x; src: url(https://a.example/x.woff) }")]
    [InlineData("h1 { background: url(https://a.example/x.png) }")]
    [InlineData("h1 { background-image: image-set('a.png' 1x) }")]
    [InlineData("h1 { list-style-image: url(x) }")]
    [InlineData("h1 { cursor: url(x), auto }")]
    [InlineData("h1 { font-family: url(x) }")]
    [InlineData("h1 { c\\6flor: u\\72l(x) }")]
    // What hides, or puts something else there.
    [InlineData("h1 { display: none }")]
    [InlineData("h1 { visibility: hidden }")]
    [InlineData("h1 { opacity: 0 }")]
    [InlineData("h1 { position: fixed; inset: 0 }")]
    [InlineData("h1 { font-size: 0 }")]
    [InlineData("h1 { font-size: 1px }")]
    [InlineData("h1 { line-height: 0 }")]
    [InlineData("h1 { color: transparent }")]
    [InlineData("h1 { color: rgba(0, 0, 0, 0.1) }")]
    [InlineData("h1 { margin-left: -4000px }")]
    [InlineData("h1 { padding: 4000px }")]
    [InlineData("h1 { letter-spacing: 2000px }")]
    [InlineData("h1 { width: 0; overflow: hidden }")]
    [InlineData("h1 { transform: scale(0) }")]
    [InlineData("h1 { clip-path: inset(100%) }")]
    [InlineData("h1::before { content: 'School closed' }")]
    // What reaches out of its place.
    [InlineData("html { color: red }")]
    [InlineData("body h1 { color: red }")]
    [InlineData(":root { --main: red }")]
    [InlineData("h1:has(a) { color: red }")]
    [InlineData("a[href^='x'] { color: red }")]
    [InlineData("h1 { color: var(--x) }")]
    [InlineData("h1 { width: expression(alert(1)) }")]
    [InlineData("</style><script>alert(1)</script>")]
    [InlineData("@charset 'x'; @namespace url(x); @page { margin: 0 }")]
    public void What_loads_hides_or_reaches_out_is_taken_away_and_named(string css)
    {
        var clean = Clean(css);
        Assert.DoesNotContain("<", clean.Css);
        Assert.DoesNotContain("url", clean.Css);
        Assert.True(clean.Css.Length == 0 || clean.Css.Split('\n', StringSplitOptions.RemoveEmptyEntries).All(l => l.Contains(".outlet ", StringComparison.Ordinal) || l == "}" || l.StartsWith("@media (prefers", StringComparison.Ordinal)), clean.Css);
        foreach (var word in new[] { "display", "visibility", "opacity", "position", "transparent", "0.1", "-4000", "4000px", "2000px", "\nwidth", "transform", "clip", "content", "--", "import", "font-face", "expression", ":has", "[href", "font-size: 0", "font-size: 1px", "line-height: 0" })
            Assert.DoesNotContain(word, clean.Css);
    }

    [Fact]
    public void What_was_taken_away_is_told_in_short()
    {
        var clean = Clean("h1 { display: none; color: #a00 } @import url(https://a.example/" + new string('x', 300) + ".css);");
        Assert.Equal(2, clean.Removed.Count);
        Assert.Contains(clean.Removed, r => r.Contains("display: none", StringComparison.Ordinal));
        Assert.All(clean.Removed, r => Assert.True(r.Length <= 120));
        Assert.Contains("color: rgb(170, 0, 0)", clean.Css);
        Assert.Equal("", Clean("  ").Css);
    }

    // Whatever pieces a sheet is put together from: nothing that loads comes through, and nothing outside the outlet.
    [Fact]
    public void No_soup_of_pieces_gets_through()
    {
        string[] pieces = ["h1", "{", "}", "color", ":", "red", ";", "url(x)", "/*", "*/", "\\", "\"", "'", "@media", "(max-width: 3px)", "@import", ",", "body", ".a", "background", "(", ")", "<", "\n", "!important", "\u0000", "--x", "*"];
        var random = new Random(20261125);
        for (var run = 0; run < 4_000; run++)
        {
            var css = string.Concat(Enumerable.Range(0, random.Next(1, 25)).Select(_ => pieces[random.Next(pieces.Length)] + (random.Next(3) == 0 ? " " : "")));
            var clean = Clean(css).Css;
            Assert.DoesNotContain("url", clean);
            Assert.DoesNotContain("@import", clean);
            Assert.DoesNotContain("<", clean);
            Assert.All(clean.Split('\n', StringSplitOptions.RemoveEmptyEntries).Where(l => l != "}" && !l.StartsWith("@media (", StringComparison.Ordinal)), l => Assert.Matches(@"^(:root\.by-(day|night|reader) )?\.outlet ", l));
            Assert.Equal(clean.Count(c => c == '{'), clean.Count(c => c == '}'));
        }
    }

    [Fact]
    public void Changes_wait_until_they_are_published()
    {
        var calendar = Calendar();
        var made = Core.Publishing.Publication.New(Guid.NewGuid(), "k", Settings(calendar), Now, isOut: false);
        Assert.Null(made.PublishedAt);
        // What never was out has no other state beside it.
        var typed = made.Change(Settings(calendar) with { Title = "Boats" }, Now, isOut: false);
        Assert.Equal(("Boats", null, 2), (typed.Title, typed.Draft, typed.Version));
        var later = Now + Duration.FromHours(1);
        var published = typed.Publish(later);
        Assert.Equal((later, "Boats"), (published.PublishedAt, published.Title));
        var changed = published.Change(published.Settings with { Title = "Ropes" }, later, isOut: false);
        Assert.Equal(("Boats", "Ropes"), (changed.Title, changed.Draft!.Title));
        Assert.Equal("Ropes", changed.WithDraft.Title);
        Assert.Null(changed.WithDraft.Draft);
        Assert.Equal(("Boats", null), (changed.Discard().Title, changed.Discard().Draft));
        Assert.Equal(("Ropes", null), (changed.Publish(later).Title, changed.Publish(later).Draft));
        Assert.Equal("Knots", changed.Change(published.Settings with { Title = "Knots" }, later, isOut: true).Title);
        Assert.Equal("title_missing", Code(() => published.Change(published.Settings with { Title = "" }, later, isOut: false)));
        Assert.Equal(Audience.Members, (Settings(calendar) with { Audience = Audience.Members }).Checked().Audience);
    }
}
