using System.Diagnostics;
using Npgsql;
using Valtro.Core;

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
        Run("pg_dump", database, ["--format=custom", "--no-owner", "--no-privileges", "--enable-row-security", "--file", part]);
        // Under its name only when it is whole.
        File.Move(part, file, overwrite: true);
        output.WriteLine($"{file}: {new FileInfo(file).Length / 1000} kB");
        output.WriteLine("The keys that second factors are kept with are not in it: keep the folder of VALTRO_KEYS (DATA/keys) apart from it.");
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
        Run("pg_restore", database, ["--no-owner", "--no-privileges", "--single-transaction", "--exit-on-error", file]);
        output.WriteLine("restored");
    }

    private static void Run(string program, string database, string[] arguments)
    {
        var settings = new NpgsqlConnectionStringBuilder(database);
        var start = new ProcessStartInfo(Find(program)) { RedirectStandardError = true };
        foreach (var argument in new[] { "--host", settings.Host!, "--port", settings.Port.ToString(System.Globalization.CultureInfo.InvariantCulture), "--username", settings.Username!, "--dbname", settings.Database! })
            start.ArgumentList.Add(argument);
        foreach (var argument in arguments)
            start.ArgumentList.Add(argument);
        // Not as an argument: those can be read by others on the machine.
        start.Environment["PGPASSWORD"] = settings.Password;
        using var process = Process.Start(start)!;
        var told = process.StandardError.ReadToEnd();
        process.WaitForExit();
        if (process.ExitCode != 0)
            throw new InvalidInputException("backup_failed", null, $"{program} failed: {told.Trim()}");
    }

    private static string Find(string program) =>
        Directory.Exists("/usr/lib/postgresql")
            ? Directory.GetDirectories("/usr/lib/postgresql").OrderDescending(StringComparer.Ordinal).Select(d => Path.Combine(d, "bin", program)).FirstOrDefault(File.Exists) ?? program
            : program;
}
