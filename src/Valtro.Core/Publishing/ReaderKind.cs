using System.Text.RegularExpressions;

namespace Valtro.Core.Publishing;

/// <summary>What kind of program reads.</summary>
public enum ReaderKind
{
    /// <summary>One that does not say, or says what nothing can be told from.</summary>
    Unknown,

    /// <summary>A browser on a phone or tablet.</summary>
    PhoneBrowser,

    /// <summary>A browser on a desk.</summary>
    Browser,

    /// <summary>A calendar program on a phone or tablet.</summary>
    PhoneProgram,

    /// <summary>A calendar program on a desk.</summary>
    Program,

    /// <summary>A service that fetches for its own readers: how many there are behind it nobody knows.</summary>
    Service,

    /// <summary>A search engine, or a preview of a link.</summary>
    Robot,
}

/// <summary>A reading program as it names itself.</summary>
/// <param name="Kind">What kind it is.</param>
/// <param name="Family">The name it gives itself, without its version; empty for browsers, of which all say the same.</param>
public sealed partial record ReaderFamily(ReaderKind Kind, string Family)
{
    /// <summary>The longest name that is kept.</summary>
    public const int MaxFamily = 40;

    /// <summary>What a User-Agent (RFC 9110, 10.1.5) says, by its general words alone.</summary>
    public static ReaderFamily Of(string? userAgent)
    {
        var text = userAgent?.Trim() ?? "";
        if (text.Length == 0)
            return new ReaderFamily(ReaderKind.Unknown, "");
        var isPhone = Phone().IsMatch(text);
        var name = Named(text);
        if (Robot().IsMatch(text))
            return new ReaderFamily(ReaderKind.Robot, name);
        // Browsers say Mozilla, an engine and whom they are like; programs that only say they are compatible are services.
        if (text.StartsWith("Mozilla/", StringComparison.Ordinal))
            return text.Contains("compatible;", StringComparison.OrdinalIgnoreCase)
                ? new ReaderFamily(ReaderKind.Service, name)
                : new ReaderFamily(isPhone ? ReaderKind.PhoneBrowser : ReaderKind.Browser, "");
        if (Service().IsMatch(text))
            return new ReaderFamily(ReaderKind.Service, name);
        // What says nothing of calendars may be anything.
        return new ReaderFamily(!Calendar().IsMatch(text) ? ReaderKind.Unknown : isPhone ? ReaderKind.PhoneProgram : ReaderKind.Program, name);
    }

    // The first product, or the one said to be compatible with a browser.
    private static string Named(string text)
    {
        var compatible = Compatible().Match(text);
        var name = compatible.Success ? compatible.Groups[1].Value : text.Split('/', ' ', '(')[0];
        var clean = new string([.. name.Where(c => char.IsLetterOrDigit(c) || c is '-' or '_' or '.' or '+')]);
        return clean.Length <= MaxFamily ? clean : clean[..MaxFamily];
    }

    [GeneratedRegex(@"cal|agenda|dav|sync|mail|organi[sz]er|schedul|diary|planner", RegexOptions.IgnoreCase)]
    private static partial Regex Calendar();

    [GeneratedRegex(@"\b(?:android|mobile|phone|ios|ipados|iphone|ipad)\b", RegexOptions.IgnoreCase)]
    private static partial Regex Phone();

    [GeneratedRegex(@"bot\b|bot/|crawl|spider|preview", RegexOptions.IgnoreCase)]
    private static partial Regex Robot();

    [GeneratedRegex(@"server|service|import|fetch|http-?client|java/|python|curl|wget|go-http|okhttp|libwww|ruby|php|node|axios|\.net", RegexOptions.IgnoreCase)]
    private static partial Regex Service();

    [GeneratedRegex(@"compatible;\s*([^/;)\s]+)", RegexOptions.IgnoreCase)]
    private static partial Regex Compatible();
}
