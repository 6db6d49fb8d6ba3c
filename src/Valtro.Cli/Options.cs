using Npgsql;
using Valtro.Core;

namespace Valtro.Cli;

/// <summary>What stands behind a command: words, and <c>--name value</c>.</summary>
internal sealed class Options
{
    private readonly Dictionary<string, string> named = [];

    public Options(IEnumerable<string> args)
    {
        string? name = null;
        foreach (var arg in args)
        {
            if (name is not null)
            {
                named[name] = arg;
                name = null;
            }
            else if (arg.StartsWith("--", StringComparison.Ordinal))
            {
                name = arg[2..];
            }
            else
            {
                Words.Add(arg);
            }
        }
        if (name is not null)
            throw new InvalidInputException("option_missing", name, $"--{name} needs a value.");
    }

    public List<string> Words { get; } = [];

    public string? Get(string name) => named.GetValueOrDefault(name);

    public string Need(string name) => Get(name) ?? throw new InvalidInputException("option_missing", name, $"--{name} is needed.");

    /// <summary>The database of <c>--database</c> or <c>VALTRO_DATABASE</c>, or the one <c>./start</c> keeps in a folder and that runs.</summary>
    public string Database()
    {
        if (Get("database") is { } said)
            return said;
        if (Get("data") is null && Environment.GetEnvironmentVariable("VALTRO_DATABASE") is { Length: > 0 } set)
            return set;
        var folder = Get("data") ?? ".data";
        var (secret, pid) = (Path.Combine(folder, "database-password"), Path.Combine(folder, "postgres", "postmaster.pid"));
        if (!File.Exists(secret) || !File.Exists(pid))
            throw new InvalidInputException("no_database", "data", $"No database runs in {folder}. Start it with ./start, name its folder with --data, or set VALTRO_DATABASE.");
        return new NpgsqlConnectionStringBuilder
        {
            Host = "127.0.0.1",
            Port = int.Parse(File.ReadLines(pid).Skip(3).First(), System.Globalization.CultureInfo.InvariantCulture),
            Database = "valtro",
            Username = "valtro",
            Password = File.ReadAllText(secret),
        }.ConnectionString;
    }
}
