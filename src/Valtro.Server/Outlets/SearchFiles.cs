using System.Text;
using System.Xml;
using NodaTime;
using NodaTime.Text;

namespace Valtro.Server.Outlets;

/// <summary>What search engines read first: which pages there are, of all publications that are for everyone and not kept from them.</summary>
internal sealed class SearchFiles(Store.Publications publications, ServerSettings settings, IClock clock)
{
    private static readonly Duration Kept = Duration.FromMinutes(5);
    private const string Hour = "public, max-age=3600";

    private (byte[] Bytes, Instant Until)? sitemap;

    public static void Map(WebApplication app)
    {
        app.MapGet("/robots.txt", (HttpContext http, ServerSettings settings) =>
        {
            http.Response.Headers.CacheControl = Hour;
            return Results.Text($"User-agent: *\nDisallow: /api/\nSitemap: {settings.Address}/sitemap.xml\n", "text/plain; charset=utf-8");
        }).ExcludeFromDescription();
        app.MapGet("/sitemap.xml", async (HttpContext http, SearchFiles files) =>
        {
            http.Response.Headers.CacheControl = Hour;
            return Results.Bytes(await files.SitemapAsync(), "application/xml; charset=utf-8");
        }).ExcludeFromDescription();
    }

    private async Task<byte[]> SitemapAsync()
    {
        var now = clock.GetCurrentInstant();
        if (sitemap is { } known && known.Until > now)
            return known.Bytes;
        using var output = new MemoryStream();
        await using (var xml = XmlWriter.Create(output, new XmlWriterSettings { Encoding = new UTF8Encoding(false), Async = true, Indent = true }))
        {
            // Sitemap protocol 0.9.
            await xml.WriteStartElementAsync(null, "urlset", "http://www.sitemaps.org/schemas/sitemap/0.9");
            foreach (var (key, changedAt) in await publications.ListedAsync(now))
            {
                await xml.WriteStartElementAsync(null, "url", null);
                await xml.WriteElementStringAsync(null, "loc", null, settings.OutletUrl(key, ""));
                await xml.WriteElementStringAsync(null, "lastmod", null, InstantPattern.ExtendedIso.Format(changedAt));
                await xml.WriteEndElementAsync();
            }
            await xml.WriteEndElementAsync();
        }
        sitemap = (output.ToArray(), now + Kept);
        return sitemap.Value.Bytes;
    }
}
