using System.Net.Security;
using System.Net.Sockets;
using System.Security.Cryptography.X509Certificates;
using Dapper;
using NodaTime;
using Npgsql;
using Valtro.Core;
using Valtro.Store;

namespace Valtro.Cli;

/// <summary>
/// Looks whether an installation is in order, a line a matter: <c>ok</c>, <c>warn</c> for what will be wrong, <c>bad</c> for what is. For
/// monitoring the exit code is the worst of them: 0, 1, 2.
/// </summary>
internal sealed class Doctor(Options options, IClock clock, TextWriter output)
{
    private static readonly Duration Skew = Duration.FromSeconds(2);
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(5);

    private int worst;

    /// <summary>Looks.</summary>
    /// <returns>The exit code.</returns>
    public async Task<int> RunAsync()
    {
        await DatabaseAsync();
        await MailAsync();
        Disk();
        ZoneData();
        Keys();
        Backups();
        await CertificateAsync();
        return worst;
    }

    private async Task DatabaseAsync()
    {
        try
        {
            await using var owner = new NpgsqlConnection(Soon(options.OwnerDatabase()));
            await owner.OpenAsync();
            Say("ok", "database", $"PostgreSQL {owner.PostgreSqlVersion} answers");
            var before = clock.GetCurrentInstant();
            var there = Instant.FromUnixTimeMilliseconds(await owner.ExecuteScalarAsync<long>("select (extract(epoch from clock_timestamp()) * 1000)::bigint"));
            var off = there - (before + (clock.GetCurrentInstant() - before) / 2);
            var apart = off < Duration.Zero ? -off : off;
            Say(apart <= Skew ? "ok" : "warn", "clock", $"{apart.TotalSeconds:0.0} s from the database’s");
            var (missing, newer) = Database.Compare(owner);
            if (newer.Count > 0)
                Say("bad", "schema", $"of a newer version ({newer[^1]}): start that one");
            else
                Say(missing.Count == 0 ? "ok" : "warn", "schema", missing.Count == 0 ? "of this version" : $"older: {missing.Count} changes are made when the server starts");
            var room = await owner.QuerySingleAsync<(int Most, int Taken)>("select current_setting('max_connections')::int, (select count(*)::int from pg_stat_activity)");
            Say(room.Taken < room.Most * 0.8 ? "ok" : "warn", "connections", $"{room.Taken} of {room.Most} taken");
            var behind = (await owner.QueryAsync<(string Name, string State, long Bytes)>("select application_name, sync_state, coalesce(pg_wal_lsn_diff(pg_current_wal_lsn(), replay_lsn), 0)::bigint from pg_stat_replication where not pg_is_in_recovery()")).AsList();
            foreach (var (name, state, bytes) in behind)
                Say(bytes < 64 << 20 ? "ok" : "warn", "standby", $"{name}, {state}, {bytes / 1024} kB behind");
            var checksums = await owner.ExecuteScalarAsync<string>("show data_checksums");
            Say(checksums == "on" ? "ok" : "warn", "checksums", checksums == "on" ? "on" : "off: what the disk spoils is not found");
            var waiting = await owner.QuerySingleAsync<(long Count, double Oldest)>("select count(*), coalesce(extract(epoch from now() - min(next_try_at)), 0)::float8 from mail where sent_at is null and next_try_at < now()");
            Say(waiting.Oldest < 3600 ? "ok" : "warn", "mail waiting", waiting.Count == 0 ? "none that is due" : $"{waiting.Count} that are due, the oldest for {waiting.Oldest / 60:0} minutes");
            await RoleAsync();
        }
        catch (Exception error) when (error is NpgsqlException or TimeoutException or SocketException or InvalidInputException)
        {
            Say("bad", "database", error.Message);
        }
    }

    private async Task RoleAsync()
    {
        await using var server = new NpgsqlConnection(Soon(options.Database()));
        await server.OpenAsync();
        var mighty = await server.ExecuteScalarAsync<bool>("select r.rolsuper or r.rolbypassrls or exists (select from pg_tables t where t.schemaname = 'public' and t.tableowner = r.rolname) from pg_roles r where r.rolname = current_user");
        Say(mighty ? "bad" : "ok", "role", mighty ? $"{server.UserName} owns tables, or is above row-level security" : $"{server.UserName} owns nothing");
        var open = (await server.QueryAsync<string>("select relname from pg_class c join pg_namespace n on n.oid = c.relnamespace where n.nspname = 'public' and c.relkind = 'r' and relname <> 'schemaversions' and not (relrowsecurity and relforcerowsecurity)")).AsList();
        Say(open.Count == 0 ? "ok" : "bad", "schools apart", open.Count == 0 ? "row-level security is forced on all tables" : "not forced on " + string.Join(", ", open));
    }

    private async Task MailAsync()
    {
        if (Setting("VALTRO_SMTP") is not { } text || !Uri.TryCreate(text, UriKind.Absolute, out var smtp))
        {
            Say("warn", "mail", "no mail server is set (VALTRO_SMTP): mail waits");
            return;
        }
        try
        {
            using var line = new TcpClient();
            await line.ConnectAsync(smtp.Host, smtp.Port > 0 ? smtp.Port : 25).WaitAsync(Patience);
            using var reader = new StreamReader(line.GetStream());
            var greeting = await reader.ReadLineAsync().WaitAsync(Patience) ?? "";
            Say(greeting.StartsWith("220", StringComparison.Ordinal) ? "ok" : "bad", "mail", $"{smtp.Host} says “{greeting}”");
        }
        catch (Exception error) when (error is SocketException or TimeoutException or IOException)
        {
            Say("bad", "mail", $"{smtp.Host} does not answer: {error.Message}");
        }
    }

    private void Disk()
    {
        foreach (var folder in new[] { options.Get("data") ?? ".", Setting("VALTRO_KEPT"), options.Get("backups") ?? Setting("VALTRO_BACKUPS") }.OfType<string>().Where(Directory.Exists).Select(Path.GetFullPath).Distinct())
        {
            var room = DiskRoom.Of(folder);
            Say(room.IsFull ? "bad" : room.IsLow ? "warn" : "ok", "disk", $"{folder}: {room.Free >> 20} MB free of {room.Size >> 20}");
        }
    }

    private void ZoneData()
    {
        var version = NodaTime.TimeZones.TzdbDateTimeZoneSource.Default.TzdbVersion;
        // Rules of time zones change several times a year.
        var isOld = int.TryParse(version.AsSpan(0, 4), out var year) && clock.GetCurrentInstant().InUtc().Year - year > 1;
        Say(isOld ? "warn" : "ok", "zone data", version + (isOld ? ": older than a year; update" : ""));
    }

    private void Keys()
    {
        if (Setting("VALTRO_KEYS") is not { } keys)
            return;
        if (!Directory.Exists(keys) || Directory.GetFiles(keys, "*.xml").Length == 0)
            Say("bad", "keys", $"there are none in {keys}: second factors and visitors’ addresses cannot be read");
        else
            Say((File.GetUnixFileMode(keys) & (UnixFileMode.OtherRead | UnixFileMode.GroupWrite | UnixFileMode.OtherExecute)) == 0 ? "ok" : "warn", "keys", $"{keys} {((File.GetUnixFileMode(keys) & UnixFileMode.OtherRead) == 0 ? "is read by its owner" : "can be read by others")}");
    }

    private void Backups()
    {
        if ((options.Get("backups") ?? Setting("VALTRO_BACKUPS")) is not { } folder)
        {
            Say("warn", "backups", "no folder is told (--backups DIR, or VALTRO_BACKUPS)");
            return;
        }
        var last = Directory.Exists(folder) ? new DirectoryInfo(folder).GetFiles(Backup.Pattern).MaxBy(f => f.LastWriteTimeUtc) : null;
        var age = last is null ? Duration.MaxValue : clock.GetCurrentInstant() - Instant.FromDateTimeUtc(last.LastWriteTimeUtc);
        Say(last is null || age > Duration.FromDays(3) ? "bad" : age > Duration.FromHours(26) ? "warn" : "ok", "backups", last is null ? $"none in {folder}" : $"the last is {last.Name}, {age.TotalHours:0} hours old");
    }

    private async Task CertificateAsync()
    {
        if (!Uri.TryCreate(options.Get("address") ?? Setting("VALTRO_ADDRESS"), UriKind.Absolute, out var address) || address.Scheme != Uri.UriSchemeHttps)
        {
            Say("warn", "certificate", "the address has none (VALTRO_ADDRESS begins with http)");
            return;
        }
        try
        {
            using var line = new TcpClient();
            await line.ConnectAsync(address.IdnHost, address.Port).WaitAsync(Patience);
            await using var secure = new SslStream(line.GetStream());
            await secure.AuthenticateAsClientAsync(address.IdnHost).WaitAsync(Patience);
            using var seen = new X509Certificate2(secure.RemoteCertificate!);
            var left = Instant.FromDateTimeUtc(seen.NotAfter.ToUniversalTime()) - clock.GetCurrentInstant();
            Say(left < Duration.FromDays(3) ? "bad" : left < Duration.FromDays(21) ? "warn" : "ok", "certificate", $"{left.TotalDays:0} days left");
        }
        catch (Exception error) when (error is SocketException or TimeoutException or IOException or System.Security.Authentication.AuthenticationException)
        {
            Say("bad", "certificate", $"{address.IdnHost}: {error.Message}");
        }
    }

    private static string? Setting(string name) => Environment.GetEnvironmentVariable(name) is { Length: > 0 } set ? set : null;

    private static string Soon(string database) => new NpgsqlConnectionStringBuilder(database) { Timeout = 5, CommandTimeout = 5, Pooling = false }.ConnectionString;

    private void Say(string how, string what, string detail)
    {
        worst = Math.Max(worst, how switch { "ok" => 0, "warn" => 1, _ => 2 });
        output.WriteLine($"{how,-4}  {what,-14}  {detail}");
    }
}
