using System.Net;
using System.Net.Sockets;
using System.Text.RegularExpressions;
using NodaTime;
using Valtro.Store;

namespace Valtro.Server.Links;

/// <summary>
/// Opens links as somebody outside would: without an account, from the network. Addresses inside of networks are never
/// asked: what a name stands for is looked at before connecting, at every redirect.
/// </summary>
internal sealed partial class LinkChecker(ServerSettings settings, IClock clock) : IDisposable
{
    private const int MaxRedirects = 5;

    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(8);

    private readonly HttpClient client = new(new SocketsHttpHandler
    {
        AllowAutoRedirect = false,
        UseCookies = false,
        UseProxy = false,
        // What a name stands for can change between two questions.
        PooledConnectionLifetime = TimeSpan.Zero,
        ConnectTimeout = Patience,
        MaxResponseHeadersLength = 32,
        ConnectCallback = (context, cancellation) => ConnectAsync(context, settings, cancellation),
    })
    {
        Timeout = Patience,
    };

    /// <summary>Tries an address.</summary>
    /// <param name="address">An http or https address.</param>
    /// <param name="cancellation">Ends the try.</param>
    public async Task<LinkCheck> CheckAsync(string address, CancellationToken cancellation)
    {
        LinkCheck Is(LinkOutcome outcome, int? status = null) => new(address, outcome, status, clock.GetCurrentInstant());
        if (!Uri.TryCreate(address, UriKind.Absolute, out var at))
            return Is(LinkOutcome.Missing);
        try
        {
            for (var i = 0; i <= MaxRedirects; i++)
            {
                if (at.Scheme is not ("http" or "https"))
                    return Is(LinkOutcome.NoAnswer);
                using var request = new HttpRequestMessage(HttpMethod.Get, Through(at));
                request.Headers.Host = at.Authority;
                request.Headers.UserAgent.ParseAdd("Valtro-link-check/1.0");
                // The head of the answer is all that is read.
                using var answer = await client.SendAsync(request, HttpCompletionOption.ResponseHeadersRead, cancellation);
                var status = (int)answer.StatusCode;
                if (status is >= 300 and < 400 && answer.Headers.Location is { } next)
                {
                    at = new Uri(at, next);
                    continue;
                }
                return Is(
                    status switch
                    {
                        401 or 402 or 403 or 407 => LinkOutcome.SignIn,
                        404 or 410 => LinkOutcome.Missing,
                        >= 200 and < 300 => SignIn().IsMatch(at.AbsolutePath) && !SignIn().IsMatch(new Uri(address).AbsolutePath) ? LinkOutcome.SignIn : LinkOutcome.Open,
                        _ => LinkOutcome.NoAnswer,
                    },
                    status);
            }
            return Is(LinkOutcome.NoAnswer);
        }
        catch (HttpRequestException e) when (e.InnerException is InsideException || e.InnerException?.InnerException is InsideException)
        {
            return Is(LinkOutcome.Inside);
        }
        catch (Exception e) when (e is HttpRequestException or OperationCanceledException or UriFormatException && !cancellation.IsCancellationRequested)
        {
            return Is(LinkOutcome.NoAnswer);
        }
    }

    public void Dispose() => client.Dispose();

    /// <summary>Whether an address lies inside of a network, or is no single outside machine's.</summary>
    internal static bool IsInside(IPAddress address)
    {
        if (address.IsIPv4MappedToIPv6)
            address = address.MapToIPv4();
        if (address.AddressFamily == AddressFamily.InterNetworkV6)
        {
            // What carries an IPv4 address leads where that one does (6to4, NAT64, Teredo); all else outside is 2000::/3.
            var b6 = address.GetAddressBytes();
            return (b6[0] & 0xE0) != 0x20 || (b6[0], b6[1]) == (0x20, 0x02) || (b6[0], b6[1], b6[2], b6[3]) is (0x20, 0x01, 0, 0) or (0x20, 0x01, 0x0D, 0xB8);
        }
        var b = address.GetAddressBytes();
        return b[0] is 0 or 10 or 127 or >= 224
            || (b[0] == 100 && b[1] is >= 64 and < 128)
            || (b[0] == 169 && b[1] == 254)
            || (b[0] == 172 && b[1] is >= 16 and < 32)
            || (b[0] == 192 && b[1] == 168)
            || (b[0] == 192 && b[1] == 0 && b[2] is 0 or 2)
            || (b[0] == 198 && b[1] is 18 or 19)
            || (b[0] == 198 && b[1] == 51 && b[2] == 100)
            || (b[0] == 203 && b[1] == 0 && b[2] == 113);
    }

    /// <summary>In the demo all hosts under .example are the stand-ins: names of that end never exist outside (RFC 2606).</summary>
    private Uri Through(Uri at) =>
        settings.StandIns.Length > 0 && at.Host.EndsWith(".example", StringComparison.OrdinalIgnoreCase) ? new Uri(settings.StandIns + at.PathAndQuery) : at;

    private static async ValueTask<Stream> ConnectAsync(SocketsHttpConnectionContext context, ServerSettings settings, CancellationToken cancellation)
    {
        var to = context.DnsEndPoint;
        var isStandIn = settings.StandIns.Length > 0 && new Uri(settings.StandIns) is var own && own.Host == to.Host && own.Port == to.Port;
        var addresses = await Dns.GetHostAddressesAsync(to.Host, cancellation);
        var outside = isStandIn ? addresses : [.. addresses.Where(a => !IsInside(a))];
        if (outside.Length == 0)
            throw new InsideException();
        var socket = new Socket(SocketType.Stream, ProtocolType.Tcp) { NoDelay = true };
        try
        {
            await socket.ConnectAsync(outside, to.Port, cancellation);
            return new NetworkStream(socket, ownsSocket: true);
        }
        catch
        {
            socket.Dispose();
            throw;
        }
    }

    [GeneratedRegex(@"(^|[/._-])(log-?in|sign-?in|signon|sso|auth)([/._-]|$)", RegexOptions.IgnoreCase)]
    private static partial Regex SignIn();

    private sealed class InsideException : IOException;
}
