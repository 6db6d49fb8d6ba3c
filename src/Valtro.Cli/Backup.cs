using System.Globalization;
using System.Security.Cryptography;
using Dapper;
using NodaTime;
using Npgsql;
using Valtro.Core;
using Valtro.Core.ICalendar;
using Valtro.Core.Publishing;
using Valtro.Store;

namespace Valtro.Cli;

/// <summary>
/// One file with all of an installation, files and pictures too, as of one moment: PostgreSQL's own archive, made while the
/// server runs.
/// </summary>
internal static class Backup
{
    public static void Write(string file, string database, TextWriter output)
    {
        var part = file + ".part";
        PostgresPrograms.Run("pg_dump", database, ["--format=custom", "--no-owner", "--no-privileges", "--enable-row-security", "--file", part]);
        // Under its name only when it is whole.
        File.Move(part, file, overwrite: true);
        output.WriteLine($"{file}: {new FileInfo(file).Length / 1000} kB");
        output.WriteLine("The keys that second factors are kept with are not in it: keep the folder of VALTRO_KEYS (DATA/keys) apart from it.");
    }

    /// <summary>The names of the files that are written into a folder.</summary>
    public const string Pattern = "valtro-*.backup";

    /// <summary>
    /// Writes one into a folder, reads it into a database of its own and compares what is there with what was written: the rows of each
    /// table, and one calendar file a school. Only one that is right stays, and only so many of them.
    /// </summary>
    /// <exception cref="InvalidInputException"><c>backup_wrong</c>: what came back is something else.</exception>
    public static async Task WriteCheckedAsync(string folder, int keep, string database, Instant now, TextWriter output)
    {
        if (keep < 1)
            throw new InvalidInputException("option_wrong", "keep", "--keep takes a number from 1.");
        Directory.CreateDirectory(folder, UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute);
        var file = Path.Combine(folder, $"valtro-{now.ToString("uuuuMMdd'T'HHmmss'Z'", CultureInfo.InvariantCulture)}.backup");
        var part = file + ".part";
        var scratch = "valtro_check_" + Guid.NewGuid().ToString("N")[..12];
        await using (File.Create(part, 1, FileOptions.None))
            File.SetUnixFileMode(part, UnixFileMode.UserRead | UnixFileMode.UserWrite);
        try
        {
            IReadOnlyList<string> before;
            await using (var connection = await Database.OpenAsync(database))
            {
                // What is written and what is counted is of one moment.
                await using var moment = await connection.BeginTransactionAsync(System.Data.IsolationLevel.RepeatableRead);
                var snapshot = await connection.ExecuteScalarAsync<string>("select pg_export_snapshot()");
                PostgresPrograms.Run("pg_dump", database, ["--format=custom", "--no-owner", "--no-privileges", "--enable-row-security", $"--snapshot={snapshot}", "--file", part]);
                before = await ContentsAsync(connection, now);
            }
            await ExecuteAsync(database, $"create database {scratch}");
            var there = new NpgsqlConnectionStringBuilder(database) { Database = scratch }.ConnectionString;
            PostgresPrograms.Run("pg_restore", there, ["--no-owner", "--no-privileges", "--single-transaction", "--exit-on-error", part]);
            IReadOnlyList<string> after;
            await using (var connection = await Database.OpenAsync(there))
            {
                await using var moment = await connection.BeginTransactionAsync(System.Data.IsolationLevel.RepeatableRead);
                after = await ContentsAsync(connection, now);
            }
            if (!before.SequenceEqual(after))
                throw new InvalidInputException("backup_wrong", null, "What came back from the backup is not what was written: " + string.Join("; ", before.Except(after).Concat(after.Except(before)).Take(6)));
            File.Move(part, file);
            output.WriteLine($"{file}: {new FileInfo(file).Length / 1000} kB, read back and compared ({before.Count} tables and calendar files)");
        }
        finally
        {
            File.Delete(part);
            await ExecuteAsync(database, $"drop database if exists {scratch} with (force)");
        }
        foreach (var old in new DirectoryInfo(folder).GetFiles(Pattern).OrderByDescending(f => f.Name, StringComparer.Ordinal).Skip(keep))
            old.Delete();
        output.WriteLine("The keys that second factors are kept with are not in it: keep the folder of VALTRO_KEYS (DATA/keys) apart from it.");
    }

    // How many rows each table has, and what one calendar file of each school says.
    private static async Task<IReadOnlyList<string>> ContentsAsync(NpgsqlConnection connection, Instant now)
    {
        var said = new List<string>();
        foreach (var table in (await connection.QueryAsync<string>("select quote_ident(tablename) from pg_tables where schemaname = 'public' order by tablename")).AsList())
            said.Add($"{table}: {await connection.ExecuteScalarAsync<long>($"select count(*) from {table}")} rows");
        // What an older version has kept is rendered when it was brought up to date.
        if (Database.Compare(connection).Missing.Count > 0)
            return said;
        foreach (var (schoolId, id, key) in (await connection.QueryAsync<(Guid, Guid, string)>("select distinct on (school_id) school_id, id, key from publication where published_at is not null order by school_id, created_at, id")).AsList())
        {
            await connection.ExecuteAsync("select set_config('valtro.school', @school, false)", new { school = schoolId.ToString() });
            var (contents, school) = await Publications.ContentsAsync(connection, schoolId, id);
            var projection = Projection.Of(contents.Publication, school.Zone, contents.Calendars, contents.Events, now, contents.Lists, gone: contents.Gone);
            var feed = FeedWriter.Write(new FeedHead(contents.Publication.Title, "", "", "", "", ""), projection);
            said.Add($"{key}.ics: {Convert.ToHexStringLower(SHA256.HashData(feed).AsSpan(0, 8))}");
        }
        return said;
    }

    private static async Task ExecuteAsync(string database, string sql)
    {
        await using var connection = new NpgsqlConnection(database);
        await connection.OpenAsync();
        await connection.ExecuteAsync(sql);
    }

    /// <exception cref="InvalidInputException"><c>not_empty</c>: there is something already.</exception>
    public static void Read(string file, string database, TextWriter output)
    {
        if (!File.Exists(file))
            throw new InvalidInputException("no_such_file", "file", $"There is no file {file}.");
        using (var connection = new NpgsqlConnection(database))
        {
            connection.Open();
            using var command = new NpgsqlCommand("select exists (select from pg_tables where schemaname = 'public')", connection);
            if ((bool)command.ExecuteScalar()!)
                throw new InvalidInputException("not_empty", "file", "The database is not empty. A backup is restored into an empty one, so that nothing is lost.");
        }
        PostgresPrograms.Run("pg_restore", database, ["--no-owner", "--no-privileges", "--single-transaction", "--exit-on-error", file]);
        output.WriteLine("restored");
    }
}
