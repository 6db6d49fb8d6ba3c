using NodaTime;
using Valtro.Core.Sources;
using Valtro.Server.Outside;

namespace Valtro.Server.Sources;

/// <summary>Asks addresses for calendars (RFC 9110, 9111): conditionally, within bounds of size and time, never inside of networks.</summary>
internal sealed class SourceFetcher(OutsideClient outside, IClock clock)
{
    /// <summary>How long an answer may take, from the question to its last byte.</summary>
    public static readonly TimeSpan Patience = TimeSpan.FromSeconds(30);

    /// <summary>Asks.</summary>
    /// <param name="address">The address.</param>
    /// <param name="tag">The state that is known; null for none.</param>
    /// <param name="modified">When that was changed; null when nobody said.</param>
    /// <param name="cancellation">Ends it.</param>
    public async Task<Fetched> FetchAsync(string address, string? tag, string? modified, CancellationToken cancellation)
    {
        using var patience = CancellationTokenSource.CreateLinkedTokenSource(cancellation);
        patience.CancelAfter(Patience);
        try
        {
            return await AskAsync(new Uri(address), tag, modified, patience.Token);
        }
        catch (InsideException)
        {
            return Failed("source_inside");
        }
        catch (OperationCanceledException) when (!cancellation.IsCancellationRequested)
        {
            return Failed("source_slow");
        }
        catch (Exception e) when (e is HttpRequestException or IOException or UriFormatException or InvalidDataException)
        {
            return Failed("source_unreachable");
        }
    }

    private async Task<Fetched> AskAsync(Uri at, string? tag, string? modified, CancellationToken cancellation)
    {
        // Only where every redirect before was for good it stands elsewhere from now on.
        var (isForGood, movedTo) = (true, (string?)null);
        for (var i = 0; i <= OutsideClient.MaxRedirects; i++)
        {
            if (at.Scheme is not ("http" or "https"))
                return Failed("source_redirects");
            using var answer = await outside.GetAsync(at, "Valtro-follow/1.0", request =>
            {
                request.Headers.Accept.ParseAdd("text/calendar, application/calendar+json;q=0.9, */*;q=0.5");
                if (tag is not null)
                    request.Headers.TryAddWithoutValidation("If-None-Match", tag);
                if (modified is not null)
                    request.Headers.TryAddWithoutValidation("If-Modified-Since", modified);
            }, cancellation);
            var status = (int)answer.StatusCode;
            if (status is 301 or 302 or 303 or 307 or 308 && answer.Headers.Location is { } next)
            {
                isForGood &= status is 301 or 308;
                at = new Uri(at, next);
                if (at.Scheme == "webcal")
                    at = new UriBuilder(at) { Scheme = "https", Port = at.IsDefaultPort ? -1 : at.Port }.Uri;
                movedTo = isForGood ? at.AbsoluteUri : movedTo;
                continue;
            }
            var fetched = status switch
            {
                304 => new Fetched(FetchOutcome.Unchanged),
                410 => new Fetched(FetchOutcome.Gone, "source_gone"),
                401 or 403 or 407 => Failed("source_closed"),
                404 => Failed("source_missing"),
                429 or 503 => Failed("source_busy") with { Wait = WaitOf(answer) },
                >= 200 and < 300 => await BodyAsync(answer, cancellation),
                _ => Failed("source_failed"),
            };
            return fetched.Outcome == FetchOutcome.Failed ? fetched : fetched with { MovedTo = movedTo };
        }
        return Failed("source_redirects");
    }

    private static async Task<Fetched> BodyAsync(HttpResponseMessage answer, CancellationToken cancellation)
    {
        if (answer.Content.Headers.ContentLength > Source.MostBytes)
            return Failed("source_too_large");
        await using var stream = await answer.Content.ReadAsStreamAsync(cancellation);
        using var body = new MemoryStream();
        var buffer = new byte[1 << 16];
        for (int length; (length = await stream.ReadAsync(buffer, cancellation)) > 0;)
        {
            if (body.Length + length > Source.MostBytes)
                return Failed("source_too_large");
            body.Write(buffer, 0, length);
        }
        return new Fetched(FetchOutcome.Fresh)
        {
            Body = Utf8(body.ToArray(), answer.Content.Headers.ContentType?.CharSet),
            Tag = answer.Headers.TryGetValues("ETag", out var tags) ? tags.First() : null,
            Modified = answer.Content.Headers.TryGetValues("Last-Modified", out var stamps) ? stamps.First() : null,
        };
    }

    // What is said of the letters counts where it says something else than UTF-8; what nobody knows is left to the reader.
    private static byte[] Utf8(byte[] body, string? charset)
    {
        var name = charset?.Trim('"', ' ');
        if (string.IsNullOrEmpty(name) || name.Equals("utf-8", StringComparison.OrdinalIgnoreCase))
            return body;
        try
        {
            return System.Text.Encoding.UTF8.GetBytes(System.Text.Encoding.GetEncoding(name).GetString(body));
        }
        catch (ArgumentException)
        {
            return body;
        }
    }

    private Duration? WaitOf(HttpResponseMessage answer) => answer.Headers.RetryAfter switch
    {
        { Delta: { } delta } => Duration.FromTimeSpan(delta),
        { Date: { } date } => Duration.Max(Duration.Zero, Instant.FromDateTimeOffset(date) - clock.GetCurrentInstant()),
        _ => null,
    };

    private static Fetched Failed(string problem) => new(FetchOutcome.Failed, problem);
}
