namespace Valtro.Server.Api;

/// <summary>What every answer forbids the browser. Scripts and styles come from files of ours, never from the page.</summary>
internal sealed class SecurityHeaders(RequestDelegate next)
{
    private const string Policy =
        "default-src 'self'; img-src 'self' data: blob:; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors ";

    public Task InvokeAsync(HttpContext http)
    {
        var path = http.Request.Path;
        // The embed is there to be framed by anybody; the page by the workspace's preview; the rest by nobody.
        var ancestors = !path.StartsWithSegments("/p") ? "'none'" : path.Value!.EndsWith("/embed", StringComparison.Ordinal) ? "*" : "'self'";
        var headers = http.Response.Headers;
        headers.ContentSecurityPolicy = Policy + ancestors;
        headers.XContentTypeOptions = "nosniff";
        headers["Referrer-Policy"] = "strict-origin-when-cross-origin";
        headers["Permissions-Policy"] = "camera=(), geolocation=(), microphone=()";
        return next(http);
    }
}
