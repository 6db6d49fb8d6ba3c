using Microsoft.Extensions.Primitives;
using Valtro.Server.Api;

namespace Valtro.Server.Outlets;

/// <summary>Writes outlets' answers: one way for those that are ready and those just made.</summary>
internal static class OutletAnswers
{
    private static readonly StringValues Shared = "public, max-age=0, must-revalidate";
    private static readonly StringValues Private = "private, no-cache";
    private static readonly StringValues VaryCoding = "Accept-Encoding";
    private static readonly StringValues GzipName = "gzip";
    private static readonly StringValues BrotliName = "br";

    /// <summary>Answers a GET or HEAD with what was rendered.</summary>
    /// <returns>Whether the reader had it already.</returns>
    public static bool Write(HttpContext http, Rendered rendered, out ReadOnlyMemory<byte> body)
    {
        var (asked, response) = (http.Request.Headers, http.Response);
        var coding = rendered.Coded(asked.AcceptEncoding);
        var headers = response.Headers;
        headers.ETag = rendered.Tag(coding);
        headers.CacheControl = rendered.IsPrivate ? Private : Shared;
        headers.Vary = VaryCoding;
        if (rendered.IsKnown(asked.IfNoneMatch, asked.IfModifiedSince))
        {
            // What says nothing of whether it changed is not said again (RFC 9110, 15.4.5).
            response.StatusCode = StatusCodes.Status304NotModified;
            body = default;
            return true;
        }
        response.StatusCode = rendered.Status;
        headers.LastModified = rendered.LastModifiedText;
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
        if (coding != Coding.Plain)
            headers.ContentEncoding = coding == Coding.Brotli ? BrotliName : GzipName;
        if (rendered.FileName is { } name)
            headers.ContentDisposition = new Microsoft.Net.Http.Headers.ContentDispositionHeaderValue("attachment") { FileNameStar = name }.ToString();
        var bytes = rendered.Body(coding);
        headers.ContentType = rendered.ContentType;
        headers.ContentLength = bytes.Length;
        body = HttpMethods.IsGet(http.Request.Method) ? bytes : default;
        return false;
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
