using System.Security.Claims;
using NodaTime;
using Valtro.Core.Events;
using Valtro.Server.Audit;
using Valtro.Server.Sessions;
using Valtro.Store;

namespace Valtro.Server.Links;

internal sealed record LinksInput(IReadOnlyList<string>? Addresses);

internal sealed record LinkCheckDto(string Address, LinkOutcome Outcome, int? Status, Instant CheckedAt);

internal static class LinkEndpoints
{
    public static void MapLinks(this IEndpointRouteBuilder api) =>
        api.MapPost("/links/check", async (LinksInput input, ClaimsPrincipal user, LinkChecker checker, LinkChecks checks, CancellationToken cancellation) =>
        {
            var addresses = (input.Addresses ?? []).Distinct().ToList();
            if (addresses.Count is 0 or > EventFacts.MaxLinks)
                throw new InvalidInputException("too_many_links", "addresses", $"Between 1 and {EventFacts.MaxLinks} links are tried at once.");
            // As an event keeps them: what is tried is what would be saved.
            var links = new EventFacts { Links = [.. addresses.Select(a => new EventLink(LinkKind.More, "", a ?? ""))] }.Checked(Guid.Empty).Links;
            var tried = await Task.WhenAll(links.Select(l => checker.CheckAsync(l.Address, cancellation)));
            await checks.SaveAsync(user.SchoolId(), tried.DistinctBy(t => t.Address));
            return tried.Select(t => new LinkCheckDto(t.Address, t.Outcome, t.Status, t.CheckedAt)).ToList();
        }).IsNotLogged();
}
