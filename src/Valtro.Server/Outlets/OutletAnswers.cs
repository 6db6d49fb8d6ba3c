using System.Globalization;
using System.Text;
using System.Text.Encodings.Web;
using System.Text.RegularExpressions;
using System.Text.Unicode;
using Microsoft.Extensions.Primitives;
using NodaTime;
using Valtro.Core.Time;
using Valtro.Server.Api;
using Valtro.Server.Seeing;

namespace Valtro.Server.Outlets;

/// <summary>Writes outlets' answers, and notes them: one way for those that are ready and those just made.</summary>
internal sealed class OutletAnswers(Shelf shelf, ReadingLog readings, Telemetry telemetry, ServerSettings settings)
{
    private static readonly StringValues Private = "private, no-cache";
    private static readonly StringValues VaryCoding = "Accept-Encoding";
    private static readonly StringValues GzipName = "gzip";
    private static readonly StringValues BrotliName = "br";

    // Asked again each time; a cache between may give what it has when nobody answers (RFC 5861, 4).
    private readonly StringValues shared = $"public, max-age=0, stale-if-error={settings.StaleHours * 3600}";

    /// <summary>Answers a GET or HEAD with what was rendered.</summary>
    /// <param name="http">The request.</param>
    /// <param name="kept">Where the answer is kept.</param>
    /// <param name="rendered">The answer.</param>
    /// <param name="now">The moment.</param>
    /// <param name="asOf">When it was surely right, where the database cannot be asked; null when it is.</param>
    /// <param name="wasReady">Whether nobody had to be asked for it.</param>
    /// <returns>The body; empty for none, or where it is large and read where it lies.</returns>
    public ReadOnlyMemory<byte> Write(HttpContext http, Kept kept, Rendered rendered, Instant now, Instant? asOf, bool wasReady)
    {
        kept.Use();
        var isUnchanged = Write(http, rendered, now, asOf, out var body);
        // A picture is read with its page.
        if (rendered.Status == StatusCodes.Status200OK && kept.Ask.Kind != OutletKind.File && kept.Standing.State is { } state)
            readings.Note(http, state, kept.Ask.Kind, isUnchanged, now);
        telemetry.Answered(kept.Ask.Kind, http.Response.StatusCode, wasReady);
        return body;
    }

    private bool Write(HttpContext http, Rendered rendered, Instant now, Instant? asOf, out ReadOnlyMemory<byte> body)
    {
        var (asked, response) = (http.Request.Headers, http.Response);
        var coding = rendered.Coded(asked.AcceptEncoding);
        var headers = response.Headers;
        headers.CacheControl = rendered.IsPrivate ? Private : shared;
        headers.Vary = VaryCoding;
        var said = asOf is { } then ? AsOfLine.In(rendered, then, now) : null;
        if (asOf is not null)
            headers.Age = ((long)Math.Max(0, (now - asOf.Value).TotalSeconds)).ToString(CultureInfo.InvariantCulture);
        // A page that says as of when it is has no tag: it is not what the tag stands for.
        if (said is null)
        {
            headers.ETag = rendered.Tag(coding);
            if (rendered.IsKnown(asked.IfNoneMatch, asked.IfModifiedSince))
            {
                // What says nothing of whether it changed is not said again (RFC 9110, 15.4.5).
                response.StatusCode = StatusCodes.Status304NotModified;
                body = default;
                return true;
            }
            // Never later than now (RFC 9110, 8.8.2.1): revisions of one second are a second apart.
            headers.LastModified = rendered.LastModified > now ? Rendered.DateOf(now) : rendered.LastModifiedText;
        }
        response.StatusCode = rendered.Status;
        headers.XContentTypeOptions = SecurityHeaders.NoSniff;
        if (rendered.Policy.Count > 0)
        {
            headers.ContentSecurityPolicy = rendered.Policy;
            headers[SecurityHeaders.ReferrerPolicyName] = SecurityHeaders.ReferrerPolicy;
        }
        if (rendered.IsOutOfSearch)
            headers["X-Robots-Tag"] = "noindex";
        if (rendered.IsForPrograms)
            headers.AccessControlAllowOrigin = "*";
        if (rendered.FileName is { } name)
            headers.ContentDisposition = new Microsoft.Net.Http.Headers.ContentDispositionHeaderValue("attachment") { FileNameStar = name }.ToString();
        headers.ContentType = rendered.ContentType;
        if (said is null && coding != Coding.Plain)
            headers.ContentEncoding = coding == Coding.Brotli ? BrotliName : GzipName;
        var isGet = HttpMethods.IsGet(http.Request.Method);
        // Who wants no more than the head makes nobody unpack the body.
        if ((!isGet || rendered.IsLarge) && said is null && coding == Coding.Plain)
        {
            headers.ContentLength = rendered.PlainLength;
            body = default;
            return false;
        }
        var bytes = said ?? rendered.Body(coding, shelf.Codings);
        headers.ContentLength = bytes.Length;
        body = isGet ? bytes : default;
        return false;
    }
}

/// <summary>The line in a page's foot that says as of when it is, when the database cannot be asked.</summary>
internal static class AsOfLine
{
    private static readonly Regex Place = new("<!--as of ([a-z]+) ([A-Za-z0-9_/+-]+)-->", RegexOptions.CultureInvariant);

    // Letters stay letters.
    private static readonly HtmlEncoder Html = HtmlEncoder.Create(UnicodeRanges.All);

    /// <summary>Where it comes: a mark in the page, which names the language and the zone.</summary>
    public static string Mark(OutletTexts texts, string zone) => $"<!--as of {texts.Language} {zone}-->";

    /// <summary>The page with the line; null for what is no page, or has no place for it.</summary>
    public static byte[]? In(Rendered rendered, Instant asOf, Instant now)
    {
        if (!rendered.ContentType.StartsWith("text/html", StringComparison.Ordinal))
            return null;
        var page = Encoding.UTF8.GetString(rendered.Body(Coding.Plain));
        var place = Place.Match(page);
        if (!place.Success)
            return null;
        var (texts, zone) = (OutletTexts.For(place.Groups[1].Value), Zones.Get(place.Groups[2].Value));
        var (then, today) = (asOf.InZone(zone).LocalDateTime, now.InZone(zone).Date);
        var when = then.Date == today ? texts.Time(then.TimeOfDay) : $"{texts.Heading(then.Date, today)}, {texts.Time(then.TimeOfDay)}";
        return Encoding.UTF8.GetBytes(Place.Replace(page, $"<p class=\"as-of\" role=\"status\">{Html.Encode(texts.With("asOf", when))}</p>", 1));
    }
}

/// <summary>What an outlet may load, and who may frame it.</summary>
internal static class OutletPolicy
{
    private const string Beginning = "default-src 'self'; img-src 'self' data:; object-src 'none'; base-uri 'none'; form-action 'self'; style-src 'self'";

    /// <summary>The policy of a document; none for what no browser shows.</summary>
    public static StringValues Of(Rendered rendered, string? ancestors = null) =>
        rendered.IsShown ? $"{Beginning}{(rendered.StyleHash is null ? "" : $" '{rendered.StyleHash}'")}; frame-ancestors {ancestors ?? rendered.FrameAncestors}" : default(StringValues);
}
