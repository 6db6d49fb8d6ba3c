namespace Valtro.Server.Events;

/// <summary>Events: one file a thing that is done to them.</summary>
internal static class EventEndpoints
{
    public static void MapEvents(this IEndpointRouteBuilder api)
    {
        var events = api.MapGroup("/events");
        events.MapRead();
        events.MapMake();
        events.MapEdit();
        events.MapFields();
        events.MapSteps();
        events.MapChangeMany();
        events.MapPutBack();
        events.MapTypedDates();
    }
}
