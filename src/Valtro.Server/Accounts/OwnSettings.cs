using System.Text.Json;
using Microsoft.AspNetCore.Http.Json;
using Microsoft.Extensions.Options;
using NodaTime;
using Valtro.Core.Time;
using Valtro.Server.Sessions;
using Valtro.Store;

namespace Valtro.Server.Accounts;

/// <summary>How the one who asks wants to see things.</summary>
internal sealed class OwnSettings(Caller caller, Store.Accounts accounts, IOptions<JsonOptions> json)
{
    private Task<PersonSettingsDto>? kept;

    public Task<PersonSettingsDto> GetAsync() => kept ??= LoadAsync();

    /// <summary>The zone whose clock they read: their own when they chose one, else the school's.</summary>
    public async Task<DateTimeZone> ZoneAsync(School school) => (await GetAsync()).Zone is { } zone ? Zones.Get(zone) : school.Zone;

    private async Task<PersonSettingsDto> LoadAsync() =>
        await accounts.SettingsAsync(caller.SchoolId, caller.PersonId) is { } text ? JsonSerializer.Deserialize<PersonSettingsDto>(text, json.Value.SerializerOptions)! : new PersonSettingsDto();
}
