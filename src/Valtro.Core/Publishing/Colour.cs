using System.Globalization;

namespace Valtro.Core.Publishing;

/// <summary>A colour of the sRGB space, without transparency.</summary>
/// <param name="Red">0 to 255.</param>
/// <param name="Green">0 to 255.</param>
/// <param name="Blue">0 to 255.</param>
public readonly record struct Colour(byte Red, byte Green, byte Blue)
{
    /// <summary>Contrast that text needs against its ground (WCAG 2.2, 1.4.3).</summary>
    public const double TextContrast = 4.5;

    /// <summary>White.</summary>
    public static Colour White { get; } = new(255, 255, 255);

    /// <summary>Black.</summary>
    public static Colour Black { get; } = new(0, 0, 0);

    /// <summary>Relative luminance, 0 to 1 (WCAG 2.2).</summary>
    public double Luminance => 0.2126 * Linear(Red) + 0.7152 * Linear(Green) + 0.0722 * Linear(Blue);

    /// <summary>Whether it is a dark ground: light text reads better on it.</summary>
    public bool IsDark => Contrast(White) > Contrast(Black);

    /// <summary>Reads #rgb or #rrggbb.</summary>
    /// <returns>Whether the text is a colour.</returns>
    public static bool TryParse(string? text, out Colour colour)
    {
        colour = default;
        if (text is null || text.Length is not (4 or 7) || text[0] != '#')
            return false;
        var digits = text.Length == 7 ? text[1..] : string.Concat(text[1..].Select(c => new string(c, 2)));
        if (!int.TryParse(digits, NumberStyles.AllowHexSpecifier, CultureInfo.InvariantCulture, out var value))
            return false;
        colour = new Colour((byte)(value >> 16), (byte)(value >> 8), (byte)value);
        return true;
    }

    /// <summary>Contrast against another colour, 1 to 21 (WCAG 2.2).</summary>
    public double Contrast(Colour other)
    {
        var (a, b) = (Luminance, other.Luminance);
        return (Math.Max(a, b) + 0.05) / (Math.Min(a, b) + 0.05);
    }

    /// <summary>A colour between this and another.</summary>
    /// <param name="other">The other.</param>
    /// <param name="share">How much of the other, 0 to 1.</param>
    public Colour Mix(Colour other, double share)
    {
        byte Part(byte a, byte b) => (byte)Math.Round(a + (b - a) * share, MidpointRounding.AwayFromZero);
        return new Colour(Part(Red, other.Red), Part(Green, other.Green), Part(Blue, other.Blue));
    }

    /// <summary>The nearest colour that text in it can be read on a ground: this one where it can, else darker or lighter.</summary>
    public Colour ReadableOn(Colour ground, double contrast = TextContrast)
    {
        if (Contrast(ground) >= contrast)
            return this;
        var found = new List<(double Share, Colour Colour)>();
        foreach (var end in new[] { Black, White })
        {
            if (end.Contrast(ground) < contrast)
                continue;
            // Contrast grows all the way once the ground's own lightness is passed: the least share that does it is searched for.
            var (low, high) = (0.0, 1.0);
            for (var i = 0; i < 20; i++)
            {
                var middle = (low + high) / 2;
                var mixed = Mix(end, middle);
                if (mixed.Contrast(ground) >= contrast && mixed.Luminance > ground.Luminance == end.Luminance > ground.Luminance)
                    high = middle;
                else
                    low = middle;
            }
            found.Add((high, Mix(end, high)));
        }
        // On a ground between, one of black and white always reads.
        return found.Count == 0 ? (ground.IsDark ? White : Black) : found.MinBy(f => f.Share).Colour;
    }

    /// <summary>As #rrggbb.</summary>
    public override string ToString() => $"#{Red:x2}{Green:x2}{Blue:x2}";

    private static double Linear(byte part)
    {
        var share = part / 255.0;
        return share <= 0.04045 ? share / 12.92 : Math.Pow((share + 0.055) / 1.055, 2.4);
    }
}
