using System.Net;
using System.Net.Sockets;

namespace Valtro.Server.Outside;

/// <summary>An address lies inside of a network.</summary>
internal sealed class InsideException : IOException;

/// <summary>
/// Asks addresses outside as somebody outside would. Addresses inside of networks are never asked: what a name stands for is
/// looked at before connecting, each time; redirects are not followed by itself.
/// </summary>
internal sealed class OutsideClient : IDisposable
{
    /// <summary>How many redirects are followed.</summary>
    public const int MaxRedirects = 5;

    private readonly ServerSettings settings;
    private readonly HttpClient client;

    public OutsideClient(ServerSettings settings)
    {
        this.settings = settings;
        client = new HttpClient(new SocketsHttpHandler
        {
            AllowAutoRedirect = false,
            UseCookies = false,
            UseProxy = false,
            AutomaticDecompression = DecompressionMethods.GZip | DecompressionMethods.Brotli | DecompressionMethods.Deflate,
            // What a name stands for can change between two questions.
            PooledConnectionLifetime = TimeSpan.Zero,
            ConnectTimeout = TimeSpan.FromSeconds(8),
            MaxResponseHeadersLength = 32,
            ConnectCallback = (context, cancellation) => ConnectAsync(context, settings, cancellation),
        })
        {
            // Who asks says how long they wait.
            Timeout = Timeout.InfiniteTimeSpan,
        };
    }

    /// <summary>Asks once; the head of the answer is read.</summary>
    /// <param name="at">An http or https address.</param>
    /// <param name="agent">Who asks.</param>
    /// <param name="prepare">Adds to the request; null for nothing.</param>
    /// <param name="cancellation">Ends it.</param>
    /// <exception cref="InsideException">It lies inside of a network.</exception>
    /// <exception cref="HttpRequestException">No answer.</exception>
    public async Task<HttpResponseMessage> GetAsync(Uri at, string agent, Action<HttpRequestMessage>? prepare, CancellationToken cancellation)
    {
        using var request = new HttpRequestMessage(HttpMethod.Get, Through(at));
        request.Headers.Host = at.Authority;
        request.Headers.UserAgent.ParseAdd(agent);
        prepare?.Invoke(request);
        try
        {
            return await client.SendAsync(request, HttpCompletionOption.ResponseHeadersRead, cancellation);
        }
        catch (HttpRequestException e) when ((e.InnerException as InsideException ?? e.InnerException?.InnerException) is InsideException inside)
        {
            throw inside;
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
}
