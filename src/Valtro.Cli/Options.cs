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

    /// <summary>The database as its owner: of <c>VALTRO_OWNER_DATABASE</c>, or the one <c>./start</c> keeps in a folder and that runs.</summary>
    public string OwnerDatabase() => Find("owner-database", "VALTRO_OWNER_DATABASE", "database-password", "valtro");

    /// <summary>The database as the server works with it: of <c>VALTRO_DATABASE</c>, or the one <c>./start</c> keeps in a folder and that runs.</summary>
    public string Database() => Find("database", "VALTRO_DATABASE", "server-password", "valtro_app");

    private string Find(string option, string variable, string passwordFile, string role)
    {
        if (Get(option) is { } said)
            return said;
        if (Get("data") is null && Environment.GetEnvironmentVariable(variable) is { Length: > 0 } set)
            return set;
        var folder = Get("data") ?? ".data";
        var (secret, pid) = (Path.Combine(folder, passwordFile), Path.Combine(folder, "postgres", "postmaster.pid"));
        if (!File.Exists(secret) || !File.Exists(pid))
            throw new InvalidInputException("no_database", "data", $"No database runs in {folder}. Start it with ./start, name its folder with --data, or set {variable}.");
        return new NpgsqlConnectionStringBuilder
        {
            Host = "127.0.0.1",
            Port = int.Parse(File.ReadLines(pid).Skip(3).First(), System.Globalization.CultureInfo.InvariantCulture),
            Database = "valtro",
            Username = role,
            Password = File.ReadAllText(secret),
        }.ConnectionString;
    }
}
