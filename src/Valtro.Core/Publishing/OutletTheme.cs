using Valtro.Core.Events;

namespace Valtro.Core.Publishing;

/// <summary>Colours to begin with.</summary>
public enum ThemePreset
{
    /// <summary>Warm paper, green ink.</summary>
    Paper,

    /// <summary>White and quiet.</summary>
    Plain,

    /// <summary>Cool grey with blue.</summary>
    Slate,

    /// <summary>Sand with dark red.</summary>
    Brick,

    /// <summary>Black on white, nothing between.</summary>
    Stark,

    /// <summary>The keeper's own.</summary>
    Own,
}

/// <summary>Whose letters are used.</summary>
public enum ThemeType
{
    /// <summary>Those that ship with it.</summary>
    Ours,

    /// <summary>Those of the reader's device, as most sites have them.</summary>
    Device,

    /// <summary>The device's letters with serifs.</summary>
    Serif,
}

/// <summary>By day or by night.</summary>
public enum ThemeLight
{
    /// <summary>A page follows its reader; a frame stays light, as the site around it does.</summary>
    AsPlaced,

    /// <summary>Always light.</summary>
    Light,

    /// <summary>Always dark.</summary>
    Dark,

    /// <summary>As the reader's system, in frames too.</summary>
    Reader,
}

/// <summary>Colours, type, corners and light of a publication's page and embeds. Immutable.</summary>
public sealed record OutletTheme
{
    /// <summary>The roundest corner, in pixels.</summary>
    public const int MaxCorner = 20;

    /// <summary>The longest style sheet of one's own.</summary>
    public const int MaxCss = 10_000;

    /// <summary>The theme a new publication has.</summary>
    public static OutletTheme Usual { get; } = new();

    /// <summary>Colours to begin with.</summary>
    public ThemePreset Preset { get; init; }

    /// <summary>One's own ground, as #rrggbb; counts with <see cref="ThemePreset.Own"/>.</summary>
    public string Ground { get; init; } = "#ffffff";

    /// <summary>One's own colour of text.</summary>
    public string Ink { get; init; } = "#1d2523";

    /// <summary>One's own colour of links and of what is chosen.</summary>
    public string Accent { get; init; } = "#1f5c4d";

    /// <summary>Whose letters.</summary>
    public ThemeType Type { get; init; }

    /// <summary>How round corners are, in pixels.</summary>
    public int Corner { get; init; } = 3;

    /// <summary>Whether an embed has an edge around it.</summary>
    public bool HasBorder { get; init; }

    /// <summary>By day or by night.</summary>
    public ThemeLight Light { get; init; }

    /// <summary>A style sheet of one's own, as it was typed; see <see cref="StyleCleaner"/> for what goes out of it.</summary>
    public string Css { get; init; } = "";

    /// <summary>The theme, checked.</summary>
    /// <exception cref="InvalidInputException"><c>theme_unknown</c>, <c>colour_malformed</c>, <c>corner_range</c>, <c>text_too_long</c>.</exception>
    public OutletTheme Checked()
    {
        if (!Enum.IsDefined(Preset) || !Enum.IsDefined(Type) || !Enum.IsDefined(Light))
            throw new InvalidInputException("theme_unknown", "look.theme", "There is no such theme.");
        if (Corner is < 0 or > MaxCorner)
            throw new InvalidInputException("corner_range", "look.theme.corner", $"Corners are between 0 and {MaxCorner} pixels round.");
        return this with
        {
            Ground = Parsed(Ground, "ground").ToString(),
            Ink = Parsed(Ink, "ink").ToString(),
            Accent = Parsed(Accent, "accent").ToString(),
            Css = Texts.Optional(Css, "look.theme.css", MaxCss),
        };
    }

    /// <summary>The colours it is drawn with by day; of one's own the only ones.</summary>
    public Palette Day => Preset switch
    {
        ThemePreset.Plain => new(Hex("#ffffff"), Hex("#1d2523"), Hex("#1f5c4d")),
        ThemePreset.Slate => new(Hex("#f4f6f8"), Hex("#1f2933"), Hex("#2b5480")),
        ThemePreset.Brick => new(Hex("#fbf5ee"), Hex("#33241f"), Hex("#8c3522")),
        ThemePreset.Stark => new(Hex("#ffffff"), Hex("#000000"), Hex("#000000")),
        ThemePreset.Own => new(Hex(Ground), Hex(Ink), Hex(Accent)),
        _ => new(Hex("#faf7f0"), Hex("#22302c"), Hex("#1f5c4d")),
    };

    /// <summary>The colours it is drawn with by night. One's own are never turned into others.</summary>
    public Palette Night => Preset switch
    {
        ThemePreset.Plain => new(Hex("#151917"), Hex("#ebe7dc"), Hex("#7cc4ae")),
        ThemePreset.Slate => new(Hex("#171c22"), Hex("#e3e8ee"), Hex("#8fb8e3")),
        ThemePreset.Brick => new(Hex("#1f1815"), Hex("#f0e4d8"), Hex("#e99a80")),
        ThemePreset.Stark => new(Hex("#000000"), Hex("#ffffff"), Hex("#ffffff")),
        ThemePreset.Own => Day,
        _ => new(Hex("#161c1a"), Hex("#ebe7dc"), Hex("#7cc4ae")),
    };

    private static Colour Parsed(string? text, string field) =>
        Colour.TryParse(text?.Trim(), out var colour)
            ? colour
            : throw new InvalidInputException("colour_malformed", $"look.theme.{field}", "A colour is written as # and six digits, like #1f5c4d.");

    private static Colour Hex(string text) => Parsed(text, "preset");
}

/// <summary>A text that cannot be read well on its ground.</summary>
/// <param name="Field">Which colour: <c>ink</c> or <c>accent</c>.</param>
/// <param name="Contrast">What it has; <see cref="Colour.TextContrast"/> is needed.</param>
/// <param name="Nearest">The nearest colour that can be read.</param>
public sealed record WeakContrast(string Field, double Contrast, Colour Nearest);

/// <summary>The three colours a theme is made of; all others follow from them.</summary>
/// <param name="Ground">What everything lies on.</param>
/// <param name="Ink">Text.</param>
/// <param name="Accent">Links and what is chosen.</param>
public sealed record Palette(Colour Ground, Colour Ink, Colour Accent)
{
    /// <summary>Whether it is for the night.</summary>
    public bool IsDark => Ground.IsDark;

    /// <summary>What cannot be read well.</summary>
    public IReadOnlyList<WeakContrast> Weak =>
    [
        .. new[] { ("ink", Ink), ("accent", Accent) }
            .Where(c => c.Item2.Contrast(Ground) < Colour.TextContrast)
            .Select(c => new WeakContrast(c.Item1, c.Item2.Contrast(Ground), c.Item2.ReadableOn(Ground))),
    ];

    /// <summary>
    /// The colours of all roles by name. Text is readable on the ground and on what is raised from it, whatever was chosen
    /// between: quiet text is only as quiet as that allows.
    /// </summary>
    public IReadOnlyDictionary<string, Colour> Roles()
    {
        var raised = IsDark ? Ground.Mix(Colour.White, 0.04) : Ground.Mix(Colour.White, 0.55);
        var wash = Ground.Mix(Accent, 0.13);
        return new Dictionary<string, Colour>
        {
            ["paper"] = Ground,
            ["raised"] = raised,
            ["sunken"] = Ground.Mix(Ink, 0.04),
            ["ink"] = Ink,
            ["quiet"] = Quiet(raised),
            ["rule"] = Ground.Mix(Ink, 0.18),
            ["rule-strong"] = Ground.Mix(Ink, 0.45),
            ["main"] = Accent,
            ["main-ink"] = Accent.IsDark ? Colour.White : Colour.Black,
            ["main-wash"] = wash,
            ["today-wash"] = Ground.Mix(Accent, 0.07),
            ["attention"] = (IsDark ? new Colour(240, 180, 94) : new Colour(143, 86, 0)).ReadableOn(wash),
        };
    }

    private Colour Quiet(Colour raised)
    {
        for (var share = 0.3; share > 0; share -= 0.03)
        {
            var quiet = Ink.Mix(Ground, share);
            if (quiet.Contrast(Ground) >= Colour.TextContrast + 0.3 && quiet.Contrast(raised) >= Colour.TextContrast + 0.3)
                return quiet;
        }
        return Ink;
    }
}
