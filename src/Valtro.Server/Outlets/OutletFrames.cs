namespace Valtro.Server.Outlets;

/// <summary>Which sites a frame stands on, as far as browsers say it.</summary>
internal static class OutletFrames
{
    /// <summary>Whether a browser would refuse to show an answer in the frame that asks for it. What is not said is left to its policy.</summary>
    public static bool IsElsewhere(HttpContext http, Rendered rendered)
    {
        // Most may stand anywhere, or are no frames.
        if (rendered.FrameAncestors is "*" or "'self'")
            return false;
        var headers = http.Request.Headers;
        return headers["Sec-Fetch-Dest"] == "iframe"
            && headers["Sec-Fetch-Site"] != "same-origin"
            && Uri.TryCreate(headers.Referer, UriKind.Absolute, out var from)
            && !rendered.FrameAncestors.Split(' ').Any(site => Holds(site, from));
    }

    /// <summary>Whether a site, or all hosts below one, as a policy names it (CSP 3, 6.7.2.8), holds an address.</summary>
    public static bool Holds(string site, Uri address)
    {
        if (site.Split("://") is not [var scheme, var rest] || !string.Equals(scheme, address.Scheme, StringComparison.OrdinalIgnoreCase))
            return false;
        var (host, port) = rest.Split(':') is [var name, var number] ? (name, number) : (rest, address.Scheme == "http" ? "80" : "443");
        return address.Port.ToString(System.Globalization.CultureInfo.InvariantCulture) == port
            && (host.StartsWith("*.", StringComparison.Ordinal)
                ? address.IdnHost.EndsWith(host[1..], StringComparison.OrdinalIgnoreCase)
                : string.Equals(address.IdnHost, host, StringComparison.OrdinalIgnoreCase));
    }
}
