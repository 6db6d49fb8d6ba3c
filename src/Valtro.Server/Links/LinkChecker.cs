using System.Text.RegularExpressions;
using NodaTime;
using Valtro.Server.Outside;
using Valtro.Store;

namespace Valtro.Server.Links;

/// <summary>
/// Opens links as somebody outside would: without an account, from the network. Addresses inside of networks are never
/// asked: what a name stands for is looked at before connecting, at every redirect.
/// </summary>
internal sealed partial class LinkChecker(OutsideClient outside, IClock clock)
{
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(8);

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
            using var patience = CancellationTokenSource.CreateLinkedTokenSource(cancellation);
            patience.CancelAfter(Patience);
            for (var i = 0; i <= OutsideClient.MaxRedirects; i++)
            {
                if (at.Scheme is not ("http" or "https"))
                    return Is(LinkOutcome.NoAnswer);
                // The head of the answer is all that is read.
                using var answer = await outside.GetAsync(at, "Valtro-link-check/1.0", null, patience.Token);
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
        catch (InsideException)
        {
            return Is(LinkOutcome.Inside);
        }
        // Whatever an address makes of itself or of the answer.
        catch (Exception) when (!cancellation.IsCancellationRequested)
        {
            return Is(LinkOutcome.NoAnswer);
        }
    }

    [GeneratedRegex(@"(^|[/._-])(log-?in|sign-?in|signon|sso|auth)([/._-]|$)", RegexOptions.IgnoreCase)]
    private static partial Regex SignIn();
}
