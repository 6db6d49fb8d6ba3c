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
/// other things or put in words. What is not known to be harmless is left out and named.
/// </summary>
public static partial class StyleCleaner
{
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

    /// <summary>Cleans a sheet.</summary>
    /// <param name="css">As it was typed.</param>
    /// <param name="scope">The selector everything is held within.</param>
    public static CleanStyle Clean(string css, string scope = ".outlet")
    {
        if (string.IsNullOrWhiteSpace(css))
            return new CleanStyle("", []);
        // A null character means nothing (CSS Syntax, 3.3), and the parser takes it for an error.
        var sheet = new StylesheetParser(includeUnknownRules: true, includeUnknownDeclarations: true).Parse(css.Replace("\0", "", StringComparison.Ordinal));
        var (clean, removed) = (new StringBuilder(), new List<string>());
        foreach (var rule in sheet.Children.OfType<IRule>())
        {
            if (rule is IMediaRule media && MediaForm().IsMatch(media.Media.MediaText))
            {
                var inner = new StringBuilder();
                foreach (var within in media.Rules)
                    Write(within, scope, inner, removed);
                if (inner.Length > 0)
                    clean.Append("@media ").Append(media.Media.MediaText).Append(" {\n").Append(inner).Append("}\n");
            }
            else
            {
                Write(rule, scope, clean, removed);
            }
        }
        return new CleanStyle(clean.ToString(), removed);
    }

    private static void Write(IRule rule, string scope, StringBuilder clean, List<string> removed)
    {
        if (rule is not IStyleRule style)
        {
            removed.Add(Short(rule.Text));
            return;
        }
        var selectors = style.SelectorText.Split(',', StringSplitOptions.TrimEntries);
        // A comma inside of brackets would be cut in half; such selectors are not among the allowed ones anyway.
        if (!selectors.All(s => SelectorForm().IsMatch(s)))
        {
            removed.Add(Short(style.SelectorText));
            return;
        }
        var kept = new List<string>();
        foreach (var property in style.Style.Children.OfType<IProperty>())
        {
            var value = property.Value;
            if (Idle.Contains(property.Name) && value is "initial" or "none" or "0% 0%" or "repeat" or "scroll")
                continue;
            if (Allowed.Contains(property.Name) && IsHarmless(property.Name, value))
                kept.Add($"{property.Name}: {value}{(property.IsImportant ? " !important" : "")}");
            else
                removed.Add(Short($"{style.SelectorText}: {property.Name}: {value}"));
        }
        if (kept.Count > 0)
            clean.Append(string.Join(", ", selectors.Select(s => $"{scope} {s}"))).Append(" { ").Append(string.Join("; ", kept)).Append(" }\n");
    }

    private static bool IsHarmless(string name, string value)
    {
        if (!ValueForm().IsMatch(value) || Loading().IsMatch(value))
            return false;
        return name switch
        {
            // Text nobody can see is hidden text.
            "color" => !value.Contains("transparent", StringComparison.OrdinalIgnoreCase) && !Faint(value),
            "font-size" => Number().Match(value) is not { Success: true } size || Pixels(size) >= 10,
            "font-weight" => true,
            "line-height" => Number().Match(value) is not { Success: true } height || Pixels(height, perNumber: 16) >= 14,
            "letter-spacing" or "word-spacing" or "margin-top" or "margin-right" or "margin-bottom" or "margin-left" => !value.Contains('-', StringComparison.Ordinal) && Small(value),
            _ => Small(value),
        };
    }

    // Room of a thousand pixels moves things out of sight.
    private static bool Small(string value) => Number().Matches(ColourForm().Replace(value, "")).All(m => Math.Abs(Pixels(m)) <= 80);

    private static bool Faint(string value) => Alpha().Match(value) is { Success: true } alpha && double.Parse(alpha.Groups[1].Value, CultureInfo.InvariantCulture) < 0.7;

    private static double Pixels(Match size, double perNumber = 1)
    {
        var number = double.Parse(size.Groups[1].Value, CultureInfo.InvariantCulture);
        return size.Groups[2].Value switch { "em" or "rem" => number * 16, "%" => number * 0.16, "pt" => number * 4 / 3, "" => number * perNumber, _ => number };
    }

    private static string Short(string text)
    {
        var line = string.Join(' ', text.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
        return line.Length <= 120 ? line : line[..119] + "…";
    }

    [GeneratedRegex(@"^(?!\s*(?:html|body|:root)\b)[a-zA-Z0-9 .#>+~_-]+(?::(?:hover|focus|focus-visible|first-child|last-child))?$")]
    private static partial Regex SelectorForm();

    [GeneratedRegex(@"^(?:screen and |all and )?\((?:min|max)-width: ?\d{1,4}px\)$|^print$|^\(prefers-color-scheme: ?(?:dark|light)\)$")]
    private static partial Regex MediaForm();

    [GeneratedRegex(@"^[a-zA-Z0-9 #%.,()'""/+-]*$")]
    private static partial Regex ValueForm();

    [GeneratedRegex(@"url|image|expression|attr|element|src|var\s*\(|calc|min\s*\(|max\s*\(|clamp", RegexOptions.IgnoreCase)]
    private static partial Regex Loading();

    [GeneratedRegex(@"(-?\d*\.?\d+)(px|em|rem|%|pt)?\b?")]
    private static partial Regex Number();

    [GeneratedRegex(@"rgba?\([^)]*\)")]
    private static partial Regex ColourForm();

    [GeneratedRegex(@"rgba\([^)]*,\s*([\d.]+)\s*\)")]
    private static partial Regex Alpha();
}
