using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;
using ExCSS;

namespace Valtro.Core.Publishing;

/// <summary>What of a style sheet goes out.</summary>
/// <param name="Css">The clean sheet, every rule held within the outlet.</param>
/// <param name="Removed">What was taken out, as it was typed: rules, selectors and declarations.</param>
public sealed record CleanStyle(string Css, IReadOnlyList<string> Removed);

/// <summary>
/// Cleans a keeper's own style sheet: colours, type, edges and room may be set, nothing may be loaded, hidden, moved over
/// other things or put in words. What is not known to be harmless is left out and named. Text is readable afterwards: every colour
/// is tried on every ground of the theme and of the sheet, by day and by night, and goes out where it can be read.
/// </summary>
public static partial class StyleCleaner
{
    private const int MaxRoom = 40;
    private const int MaxEdge = 12;

    private static readonly HashSet<string> Allowed =
    [
        "color", "background-color", "font-family", "font-size", "font-style", "font-weight", "font-variant", "line-height", "letter-spacing", "word-spacing",
        "text-align", "text-decoration", "text-decoration-line", "text-decoration-style", "text-decoration-color", "text-transform",
        "border-top-color", "border-right-color", "border-bottom-color", "border-left-color",
        "border-top-style", "border-right-style", "border-bottom-style", "border-left-style",
        "border-top-width", "border-right-width", "border-bottom-width", "border-left-width",
        "border-top-left-radius", "border-top-right-radius", "border-bottom-right-radius", "border-bottom-left-radius",
        "padding-top", "padding-right", "padding-bottom", "padding-left", "margin-top", "margin-right", "margin-bottom", "margin-left",
        "row-gap", "column-gap", "gap", "list-style-type", "box-shadow", "outline-color", "outline-width", "outline-style", "outline-offset",
    ];

    // What a shorthand of an allowed kind brings along without saying anything.
    private static readonly HashSet<string> Idle = ["background-image", "background-attachment", "background-clip", "background-origin", "background-position", "background-repeat", "background-size", "border-image-source", "border-image-slice", "border-image-width", "border-image-outset", "border-image-repeat", "font-stretch"];

    // By what an element can be told from its theme: colours go out by day, by night, or whenever.
    private static readonly (string Before, string After)[] ByDay = [(":root.by-day", ""), ("@media (prefers-color-scheme: light) {\n:root.by-reader", "}\n")];
    private static readonly (string Before, string After)[] ByNight = [(":root.by-night", ""), ("@media (prefers-color-scheme: dark) {\n:root.by-reader", "}\n")];

    private static readonly string[] Inks = ["ink", "quiet", "main", "attention"];
    private static readonly string[] Grounds = ["paper", "raised", "sunken", "main-wash", "today-wash"];

    /// <summary>Cleans the sheet of a theme.</summary>
    /// <param name="theme">The theme: its sheet as it was typed, and the colours it lies on.</param>
    /// <param name="scope">The selector everything is held within.</param>
    public static CleanStyle Clean(OutletTheme theme, string scope = ".outlet")
    {
        if (string.IsNullOrWhiteSpace(theme.Css))
            return new CleanStyle("", []);
        var work = new Work(theme, scope);
        // A null character means nothing (CSS Syntax, 3.3), and the parser takes it for an error.
        foreach (var piece in CssPieces.Rules(theme.Css.Replace("\0", "", StringComparison.Ordinal)))
        {
            if (piece.Block is not null && piece.Prelude.StartsWith("@media", StringComparison.OrdinalIgnoreCase) && MediaForm().IsMatch(piece.Prelude[6..].Trim()))
            {
                foreach (var within in CssPieces.Rules(piece.Block))
                    work.Add(within, piece.Prelude[6..].Trim());
            }
            else
            {
                work.Add(piece, "");
            }
        }
        return new CleanStyle(work.Css.ToString(), work.Removed);
    }

    /// <summary>A theme's colours, with what the sheet added to them so far: what reads on one reads on all.</summary>
    private sealed class Face(Palette palette)
    {
        private readonly List<Colour> inks = [.. Inks.Select(r => palette.Roles()[r])];
        private readonly List<Colour> grounds = [.. Grounds.Select(r => palette.Roles()[r])];

        public bool Takes(string name, Colour colour)
        {
            var (own, others) = name == "color" ? (inks, grounds) : (grounds, inks);
            if (others.Any(o => o.Contrast(colour) < Colour.TextContrast))
                return false;
            own.Add(colour);
            return true;
        }
    }

    private sealed class Work(OutletTheme theme, string scope)
    {
        private readonly StylesheetParser parser = new(includeUnknownRules: true, includeUnknownDeclarations: true);
        private readonly Face day = new(theme.Day);
        private readonly Face night = new(theme.Night);

        public StringBuilder Css { get; } = new();

        public List<string> Removed { get; } = [];

        public void Add(CssPiece piece, string media)
        {
            if (piece.Block is null || piece.Prelude.StartsWith('@'))
            {
                Removed.Add(Short(piece.ToString()));
                return;
            }
            var selectors = piece.Prelude.Split(',', StringSplitOptions.TrimEntries);
            // A comma inside of brackets would be cut in half; such selectors are not among the allowed ones anyway.
            if (!selectors.All(s => SelectorForm().IsMatch(s)))
            {
                Removed.Add(Short(piece.Prelude));
                return;
            }
            var (plain, byDay, byNight) = (new List<string>(), new List<string>(), new List<string>());
            foreach (var declaration in CssPieces.Declarations(piece.Block))
            {
                var properties = declaration.Block is null ? Parsed(declaration.Prelude) : [];
                if (properties.Count == 0)
                    Removed.Add(Short($"{piece.Prelude}: {declaration}"));
                foreach (var (name, value) in properties)
                {
                    if (Idle.Contains(name) && value is "initial" or "none" or "0% 0%" or "repeat" or "scroll")
                        continue;
                    if (!Allowed.Contains(name) || !IsHarmless(name, value, selectors) || !Put(name, value, media, plain, byDay, byNight))
                        Removed.Add(Short($"{piece.Prelude}: {name}: {value}"));
                }
            }
            Write(selectors, plain, media, [("", "")]);
            Write(selectors, byDay, media.Contains("prefers-color-scheme", StringComparison.Ordinal) ? "" : media, ByDay);
            Write(selectors, byNight, media.Contains("prefers-color-scheme", StringComparison.Ordinal) ? "" : media, ByNight);
        }

        // Each alone: what a parser does not know, or what undoes another, is seen.
        private List<(string Name, string Value)> Parsed(string declaration)
        {
            if (declaration.Contains('!', StringComparison.Ordinal))
                return [];
            var sheet = parser.Parse($"x {{ {ModernColour().Replace(declaration, Older)} }}");
            return [.. sheet.StyleRules.SelectMany(r => r.Style.Children.OfType<IProperty>()).Select(p => (p.Name.ToLowerInvariant(), p.Value))];
        }

        private bool Put(string name, string value, string media, List<string> plain, List<string> byDay, List<string> byNight)
        {
            var line = $"{name}: {value}";
            if (name is not ("color" or "background-color") || value is "inherit")
            {
                plain.Add(line);
                return true;
            }
            if (ColourOf(value) is not { } colour)
                return false;
            var (isForNight, isForDay) = (media.Contains("dark", StringComparison.Ordinal), media.Contains("light", StringComparison.Ordinal));
            if (theme.Preset == ThemePreset.Own)
            {
                // One's own colours are never turned into others.
                if (isForNight || isForDay || !day.Takes(name, colour))
                    return false;
                plain.Add(line);
                return true;
            }
            var (onDay, onNight) = (!isForNight && day.Takes(name, colour), !isForDay && night.Takes(name, colour));
            if (onDay)
                byDay.Add(line);
            if (onNight)
                byNight.Add(line);
            // On the face that is seen first it has to be there, or it is named.
            return isForNight || (theme.Light == ThemeLight.Dark && !isForDay) ? onNight : onDay;
        }

        private void Write(string[] selectors, List<string> lines, string media, (string Before, string After)[] places)
        {
            if (lines.Count == 0)
                return;
            foreach (var (before, after) in places)
            {
                var root = before[(before.LastIndexOf('\n') + 1)..];
                var rule = $"{string.Join(", ", selectors.Select(s => $"{root}{(root.Length > 0 ? " " : "")}{scope} {s}"))} {{ {string.Join("; ", lines)} }}\n";
                Css.Append(media.Length > 0 ? $"@media {media} {{\n" : "").Append(before, 0, before.Length - root.Length).Append(rule).Append(after).Append(media.Length > 0 ? "}\n" : "");
            }
        }
    }

    private static bool IsHarmless(string name, string value, string[] selectors)
    {
        if (!ValueForm().IsMatch(value) || Loading().IsMatch(value))
            return false;
        // Letters of symbols are no text; in any other place words would be put into the page.
        if (name == "font-family")
            return !SymbolFont().IsMatch(value);
        if (value.Contains('"', StringComparison.Ordinal) || value.Contains('\'', StringComparison.Ordinal))
            return false;
        return name switch
        {
            "color" or "background-color" => true,
            "font-size" => SizeWord().IsMatch(value) || (OneNumber().Match(value) is { Success: true } size && IsSize(size)),
            "font-weight" => value is "normal" or "bold" or "bolder" || (int.TryParse(value, out var weight) && weight is >= 300 and <= 900),
            "line-height" => value == "normal" || (OneNumber().Match(value) is { Success: true } height && Number(height) is var lines && (height.Groups[2].Value is "" or "em" ? lines is >= 1.1 and <= 3 : Pixels(height) is >= 18 and <= 60)),
            "letter-spacing" or "word-spacing" => value == "normal" || IsWithin(value, 0, 5),
            "text-decoration" or "text-decoration-line" =>
                !value.Contains("line-through", StringComparison.OrdinalIgnoreCase)
                // What is called off stays struck through; links may go without a line.
                && (!value.Contains("none", StringComparison.OrdinalIgnoreCase) || selectors.All(s => LinkForm().IsMatch(s))),
            // Shadows lie above what comes before: they stay near, and never fill their box.
            "box-shadow" => !value.Contains("inset", StringComparison.OrdinalIgnoreCase) && IsWithin(value, -MaxEdge, MaxEdge),
            // Outlines lie above everything: they stay thin, and outside.
            "outline-width" => value is "thin" or "medium" or "thick" || IsWithin(value, 0, 5),
            "outline-offset" => IsWithin(value, 0, 8),
            _ when name.StartsWith("border-", StringComparison.Ordinal) => IsWithin(value, 0, name.EndsWith("radius", StringComparison.Ordinal) ? MaxRoom : MaxEdge),
            _ => IsWithin(value, 0, MaxRoom),
        };
    }

    // Relative sizes add up from one element to the next: they may grow a little, and never shrink.
    private static bool IsSize(Match size) => size.Groups[2].Value switch
    {
        "em" => Number(size) is >= 1 and <= 1.5,
        "%" => Number(size) is >= 100 and <= 150,
        "" => false,
        _ => Pixels(size) is >= 10 and <= 60,
    };

    private static bool IsWithin(string value, double least, double most) => AnyNumber().Matches(ColourForm().Replace(value, "")).All(m => Pixels(m) >= least && Pixels(m) <= most);

    private static double Number(Match size) => double.Parse(size.Groups[1].Value, CultureInfo.InvariantCulture);

    private static double Pixels(Match size) => size.Groups[2].Value switch { "em" or "rem" or "%" => Number(size) * (size.Groups[2].Value == "%" ? 0.16 : 16), "pt" => Number(size) * 4 / 3, _ => Number(size) };

    // A colour through which something is seen has no contrast of its own.
    private static Colour? ColourOf(string value)
    {
        var match = RgbForm().Match(value);
        if (!match.Success || (match.Groups[4].Success && double.Parse(match.Groups[4].Value, CultureInfo.InvariantCulture) < 1))
            return Colour.TryParse(value, out var colour) ? colour : null;
        byte Part(int i) => (byte)Math.Clamp(int.Parse(match.Groups[i].Value, CultureInfo.InvariantCulture), 0, 255);
        return new Colour(Part(1), Part(2), Part(3));
    }

    // rgb(1 2 3 / 50%) as rgba(1, 2, 3, 0.5) (CSS Color 4, 15.1): the parser knows the older form only.
    private static string Older(Match m) => m.Groups[4].Success
        ? $"rgba({m.Groups[1].Value}, {m.Groups[2].Value}, {m.Groups[3].Value}, {(m.Groups[4].Value.EndsWith('%') ? (double.Parse(m.Groups[4].Value[..^1], CultureInfo.InvariantCulture) / 100).ToString(CultureInfo.InvariantCulture) : m.Groups[4].Value)})"
        : $"rgb({m.Groups[1].Value}, {m.Groups[2].Value}, {m.Groups[3].Value})";

    private static string Short(string text)
    {
        var line = string.Join(' ', text.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
        return line.Length <= 120 ? line : line[..119] + "…";
    }

    [GeneratedRegex(@"^(?!\s*(?:html|body|:root)\b)[a-zA-Z0-9 .#>+~_-]+(?::(?:hover|focus|focus-visible|first-child|last-child))?$")]
    private static partial Regex SelectorForm();

    [GeneratedRegex(@"(?:^|[\s>+~])a(?:[.:][\w.:-]+)?$")]
    private static partial Regex LinkForm();

    [GeneratedRegex(@"^(?:screen and |all and )?\((?:min|max)-width: ?\d{1,4}px\)$|^print$|^\(prefers-color-scheme: ?(?:dark|light)\)$")]
    private static partial Regex MediaForm();

    [GeneratedRegex(@"^[a-zA-Z0-9 #%.,()'""/+-]*$")]
    private static partial Regex ValueForm();

    [GeneratedRegex(@"url|image|expression|attr|element|src|var\s*\(|env\s*\(|calc|min\s*\(|max\s*\(|clamp|counter", RegexOptions.IgnoreCase)]
    private static partial Regex Loading();

    [GeneratedRegex("wing|webding|symbol|dingbat|blank|barcode|icon|emoji|password|redact", RegexOptions.IgnoreCase)]
    private static partial Regex SymbolFont();

    [GeneratedRegex("^(?:small|medium|large|x-large|xx-large)$", RegexOptions.IgnoreCase)]
    private static partial Regex SizeWord();

    [GeneratedRegex(@"^(\d*\.?\d+)(px|em|rem|%|pt)?$")]
    private static partial Regex OneNumber();

    [GeneratedRegex(@"(-?\d*\.?\d+)(px|em|rem|%|pt|[a-zA-Z]+)?")]
    private static partial Regex AnyNumber();

    [GeneratedRegex(@"rgba?\([^)]*\)|#[0-9a-fA-F]+")]
    private static partial Regex ColourForm();

    [GeneratedRegex(@"^rgba?\(\s*(\d{1,3}),\s*(\d{1,3}),\s*(\d{1,3})(?:,\s*([\d.]+))?\s*\)$")]
    private static partial Regex RgbForm();

    [GeneratedRegex(@"rgba?\(\s*(\d{1,3})\s+(\d{1,3})\s+(\d{1,3})(?:\s*/\s*([\d.]+%?))?\s*\)", RegexOptions.IgnoreCase)]
    private static partial Regex ModernColour();
}
