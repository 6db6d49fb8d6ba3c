using System.Text.Json;
using Microsoft.AspNetCore.Http.Json;
using Microsoft.Extensions.Options;
using NodaTime;
using Valtro.Core.Time;
using Valtro.Server.Sessions;

namespace Valtro.Server.Accounts;

/// <summary>How the one who asks wants to see things.</summary>
internal sealed class OwnSettings(Caller caller, IOptions<JsonOptions> json)
{
    public async Task<PersonSettingsDto> GetAsync() =>
        (await caller.StateAsync()).Settings is { } text ? JsonSerializer.Deserialize<PersonSettingsDto>(text, json.Value.SerializerOptions)! : new PersonSettingsDto();

    /// <summary>Whether they write 5/12 for the twelfth of May: as they chose, else as the school does; never in French.</summary>
    public async Task<bool> IsMonthFirstAsync(string? language) =>
        language != "fr" && ((await GetAsync()).DateOrder is { } chosen ? chosen == DateOrder.MonthFirst : (await caller.ListsAsync()).IsMonthFirst);

    /// <summary>The zone whose clock they read: their own when they chose one, else the school's.</summary>
    public async Task<DateTimeZone> ZoneAsync() => (await GetAsync()).Zone is { } zone ? Zones.Get(zone) : (await caller.SchoolAsync()).Zone;
}
