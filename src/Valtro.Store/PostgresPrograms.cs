using System.Diagnostics;
using System.Globalization;
using NodaTime;
using Npgsql;

namespace Valtro.Store;

/// <summary>A backup could not be written, or read.</summary>
/// <param name="message">Why.</param>
public sealed class BackupFailedException(string message) : Exception(message);

/// <summary>The programs that come with PostgreSQL.</summary>
public static class PostgresPrograms
{
    private const string BeforeUpgrades = "upgrade-*.backup";
    private const int KeptBeforeUpgrades = 3;

    /// <summary>Runs one and waits for its end.</summary>
    /// <param name="program">Its name.</param>
    /// <param name="database">The database it works with.</param>
    /// <param name="arguments">What else it is told.</param>
    /// <exception cref="BackupFailedException">It is not there, or failed.</exception>
    public static void Run(string program, string database, string[] arguments)
    {
        var settings = new NpgsqlConnectionStringBuilder(database);
        var start = new ProcessStartInfo(Find(program)) { RedirectStandardError = true };
        foreach (var argument in new[] { "--host", settings.Host!, "--port", settings.Port.ToString(CultureInfo.InvariantCulture), "--username", settings.Username!, "--dbname", settings.Database! })
            start.ArgumentList.Add(argument);
        foreach (var argument in arguments)
            start.ArgumentList.Add(argument);
        // Not as an argument: those can be read by others on the machine.
        start.Environment["PGPASSWORD"] = settings.Password;
        try
        {
            using var process = Process.Start(start)!;
            var told = process.StandardError.ReadToEnd();
            process.WaitForExit();
            if (process.ExitCode != 0)
                throw new BackupFailedException($"{program} failed: {told.Trim()}");
        }
        catch (System.ComponentModel.Win32Exception error)
        {
            throw new BackupFailedException($"{program} cannot be run: {error.Message}");
        }
    }

    /// <summary>Writes a backup of a database into a folder before a newer version changes it; the last three stay.</summary>
    /// <param name="database">As the owner.</param>
    /// <param name="folder">Where; it is made when it is not there.</param>
    /// <param name="change">The newest change it has.</param>
    /// <returns>The file.</returns>
    /// <exception cref="BackupFailedException">It could not be written.</exception>
    internal static string BackUpBeforeUpgrade(string database, string folder, string change)
    {
        try
        {
            Directory.CreateDirectory(folder, UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute);
            var at = SystemClock.Instance.GetCurrentInstant().ToString("uuuuMMdd'T'HHmmss'Z'", CultureInfo.InvariantCulture);
            var file = Path.Combine(folder, $"upgrade-{at}-from-{change.Split('.')[^2]}.backup");
            var part = file + ".part";
            using (File.Create(part, 1, FileOptions.None))
                File.SetUnixFileMode(part, UnixFileMode.UserRead | UnixFileMode.UserWrite);
            Run("pg_dump", database, ["--format=custom", "--no-owner", "--no-privileges", "--enable-row-security", "--file", part]);
            File.Move(part, file);
            foreach (var old in new DirectoryInfo(folder).GetFiles(BeforeUpgrades).OrderByDescending(f => f.Name, StringComparer.Ordinal).Skip(KeptBeforeUpgrades))
                old.Delete();
            return file;
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            throw new BackupFailedException(error.Message);
        }
    }

    private static string Find(string program) =>
        Directory.Exists("/usr/lib/postgresql")
            ? Directory.GetDirectories("/usr/lib/postgresql").OrderDescending(StringComparer.Ordinal).Select(d => Path.Combine(d, "bin", program)).FirstOrDefault(File.Exists) ?? program
            : program;
}
