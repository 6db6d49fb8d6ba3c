namespace Valtro.Server.Api;

/// <summary>
/// Refuses writes that another site's page sends with a person's cookie. Browsers say where a request comes from
/// (Sec-Fetch-Site, Origin); programs that are no browsers say neither and carry no cookie of a person.
/// </summary>
internal sealed class CrossSiteGuard(RequestDelegate next, ServerSettings settings)
{
    public async Task InvokeAsync(HttpContext http)
    {
        if (!http.Request.Path.StartsWithSegments("/api") || IsSafe(http.Request.Method) || IsOurs(http.Request))
        {
            await next(http);
            return;
        }
        await Problems.Of(403, "cross_site", "This request came from another site and was refused. Nothing was changed.").ExecuteAsync(http);
    }

    private static bool IsSafe(string method) => HttpMethods.IsGet(method) || HttpMethods.IsHead(method) || HttpMethods.IsOptions(method);

    private bool IsOurs(HttpRequest request)
    {
        var site = request.Headers["Sec-Fetch-Site"].ToString();
        if (site.Length > 0 && site is not ("same-origin" or "none"))
            return false;
        var origin = request.Headers.Origin.ToString();
        return origin.Length == 0 || origin == $"{request.Scheme}://{request.Host}" || origin == settings.Address;
    }
}
