using Valtro.Core.Publishing;
using Valtro.Server.Outlets;
using Valtro.Server.Views;

namespace Valtro.Server.Publications;

/// <summary>Keeps what goes out at the moment of publishing, to tell what has become different since.</summary>
internal sealed class ProofKeeper(Projections projections, OutletRenderer outlet, Store.Publications store)
{
    public async Task KeepSentAsync(Guid schoolId, Guid id)
    {
        var (projection, school) = await projections.OfAsync(schoolId, id);
        await store.KeepSentAsync(schoolId, id, Proof.Sent(outlet.Head(projection, school, projection.Publication.Key), projection));
    }
}
