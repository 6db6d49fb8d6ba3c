namespace Valtro.Server.Api;

/// <summary>What every answer forbids the browser. Scripts and styles come from files of ours, never from the page.</summary>
internal sealed class SecurityHeaders(RequestDelegate next)
{
    public const string NoSniff = "nosniff";
    public const string ReferrerPolicyName = "Referrer-Policy";
    public const string ReferrerPolicy = "strict-origin-when-cross-origin";

    private const string Policy =
        "default-src 'self'; img-src 'self' data: blob:; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors ";

    public Task InvokeAsync(HttpContext http)
    {
        var path = http.Request.Path;
        // What outlets say of themselves goes over this; of one that is not there the embed's place is anybody's.
        var ancestors = !path.StartsWithSegments("/p") ? "'none'" : path.Value!.EndsWith("/embed", StringComparison.Ordinal) ? "*" : "'self'";
        var headers = http.Response.Headers;
        headers.ContentSecurityPolicy = Policy + ancestors;
        headers.XContentTypeOptions = NoSniff;
        headers[ReferrerPolicyName] = ReferrerPolicy;
        headers["Permissions-Policy"] = "camera=(), geolocation=(), microphone=()";
        return next(http);
    }
}
