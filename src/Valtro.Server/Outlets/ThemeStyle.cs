using System.Security.Cryptography;
using System.Text;
using Valtro.Core.Publishing;

namespace Valtro.Server.Outlets;

/// <summary>A theme as a document wears it.</summary>
/// <param name="Class">What stands at its root: by day, by night, or as its reader's system.</param>
/// <param name="Css">The style that goes into it; may be empty.</param>
public sealed record ThemeStyle(string Class, string Css)
{
    private static readonly string[] Device = ["system-ui, sans-serif", "system-ui, sans-serif"];
    private static readonly string[] Serif = ["Georgia, 'Times New Roman', serif", "Georgia, 'Times New Roman', serif"];

    /// <summary>The style's hash, as a policy names it; null without one.</summary>
    public string? Hash => Css.Length == 0 ? null : "sha256-" + Convert.ToBase64String(SHA256.HashData(Encoding.UTF8.GetBytes(Css)));

    /// <param name="theme">The theme.</param>
    /// <param name="isPage">Whether it is a page of its own, which follows its reader.</param>
    /// <param name="light">What the address asks for; null for the theme's own.</param>
    public static ThemeStyle Of(OutletTheme theme, bool isPage, ThemeLight? light = null)
    {
        var css = new StringBuilder();
        var isOwn = theme.Preset == ThemePreset.Own;
        if (isOwn)
        {
            css.Append(":root.by-day,:root.by-night{").Append(Roles(theme.Day)).Append('}');
        }
        else if (theme.Preset != ThemePreset.Paper)
        {
            css.Append(":root{").Append(Roles(theme.Day)).Append("}:root.by-night{").Append(Roles(theme.Night))
                .Append("}@media (prefers-color-scheme:dark){:root.by-reader{").Append(Roles(theme.Night)).Append("}}");
        }
        var (type, corner) = (theme.Type switch { ThemeType.Device => Device, ThemeType.Serif => Serif, _ => null }, theme.Corner);
        if (type is not null)
            css.Append(":root{--body:").Append(type[0]).Append(";--head:").Append(type[1]).Append('}');
        if (corner != OutletTheme.Usual.Corner)
            css.Append(":root{--corner:").Append(corner).Append("px}");
        css.Append(StyleCleaner.Clean(theme).Css);
        // Colours of one's own are as they were chosen: the marks follow their ground.
        var wanted = isOwn ? (theme.Day.IsDark ? ThemeLight.Dark : ThemeLight.Light) : light ?? theme.Light;
        return new ThemeStyle(
            wanted switch
            {
                ThemeLight.Light => "by-day",
                ThemeLight.Dark => "by-night",
                ThemeLight.Reader => "by-reader",
                _ => isPage ? "by-reader" : "by-day",
            },
            css.ToString());
    }

    private static string Roles(Palette palette) => string.Concat(palette.Roles().Select(r => $"--{r.Key}:{r.Value};"));
}
