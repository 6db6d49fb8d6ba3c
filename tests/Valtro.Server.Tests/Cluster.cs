using System.Diagnostics;
using System.Net.Sockets;
using Npgsql;

[assembly: AssemblyFixture(typeof(Valtro.Server.Tests.Cluster))]

namespace Valtro.Server.Tests;

/// <summary>A PostgreSQL cluster of the tests' own, on loopback, gone when they end.</summary>
public sealed class Cluster : IAsyncLifetime
{
    // What is kept is worthless after the run, so nothing waits for the disk.
    private const string Options = "-c listen_addresses=127.0.0.1 -c fsync=off -c synchronous_commit=off -c full_page_writes=off -c max_connections=200";

    private readonly string folder = Folder();
    private const string Template = "filled";

    private const long MostInMemory = 6L << 30;

    private readonly SemaphoreSlim made = new(1);
    private bool isFilled;
    private int port;
    private int databases;

    private string Data => Path.Combine(folder, "data");

    public async ValueTask InitializeAsync()
    {
        if (Environment.UserName == "root")
            Run("chown", "postgres", folder);
        Postgres("initdb", "-D", Data, "-U", "valtro", "-A", "trust", "-E", "UTF8", "--locale=C.UTF-8", "--no-sync");
        port = FreePort();
        Postgres("pg_ctl", "-D", Data, "-w", "-l", Path.Combine(folder, "log"), "-o", $"{Options} -p {port} -c unix_socket_directories={folder}", "start");
        await Task.CompletedTask;
    }

    public async ValueTask DisposeAsync()
    {
        NpgsqlConnection.ClearAllPools();
        Postgres("pg_ctl", "-D", Data, "-m", "immediate", "-w", "stop");
        await Task.Yield();
        Directory.Delete(folder, recursive: true);
    }

    /// <summary>A new database with the demo school in it, copied from one that a server has filled once; its owner's connection string.</summary>
    public async Task<string> CreateDatabaseAsync()
    {
        await made.WaitAsync();
        try
        {
            if (!isFilled)
            {
                var filled = await CreateAsync(Template, "");
                await using (var server = new Server(filled))
                    _ = server.Services;
                // What is being copied may have nobody in it.
                await ExecuteAsync($"alter database {Template} allow_connections false; select pg_terminate_backend(pid) from pg_stat_activity where datname = '{Template}'");
                isFilled = true;
            }
            return await CreateAsync(NextName(), $"template {Template} strategy file_copy");
        }
        finally
        {
            made.Release();
        }
    }

    /// <summary>A new database with nothing in it; its owner's connection string.</summary>
    /// <param name="isPlain">Whether its owner is no superuser, and may no more than make roles.</param>
    public async Task<string> CreateEmptyDatabaseAsync(bool isPlain = false)
    {
        var name = NextName();
        if (!isPlain)
            return await CreateAsync(name, "");
        var owner = "owner_of_" + name;
        await ExecuteAsync($"create role {owner} login createrole");
        return new NpgsqlConnectionStringBuilder(await CreateAsync(name, $"owner {owner}")) { Username = owner }.ConnectionString;
    }

    /// <summary>A pooler before the cluster (Debian's pgbouncer) that hands connections out by the transaction.</summary>
    /// <param name="size">How many connections it has for each role and database.</param>
    public async Task<Pooler> StartPoolerAsync(int size)
    {
        var (home, at) = (Directory.CreateTempSubdirectory("valtro-pooler").FullName, FreePort());
        var names = new[] { "valtro", Server.AppRole };
        await File.WriteAllLinesAsync(Path.Combine(home, "users"), names.Select(n => $"\"{n}\" \"\""));
        await File.WriteAllTextAsync(
            Path.Combine(home, "ini"),
            $"""
            [databases]
            * = host=127.0.0.1 port={port}
            [pgbouncer]
            listen_addr = 127.0.0.1
            listen_port = {at}
            unix_socket_dir =
            auth_type = trust
            auth_file = {home}/users
            pool_mode = transaction
            default_pool_size = {size}
            max_client_conn = 300
            ignore_startup_parameters = extra_float_digits
            """);
        var isRoot = Environment.UserName == "root";
        if (isRoot)
            Run("chown", "-R", "postgres", home);
        var start = isRoot ? new ProcessStartInfo("runuser", ["-u", "postgres", "--", "/usr/sbin/pgbouncer", Path.Combine(home, "ini")]) : new ProcessStartInfo("/usr/sbin/pgbouncer", [Path.Combine(home, "ini")]);
        (start.WorkingDirectory, start.RedirectStandardError, start.RedirectStandardOutput) = ("/", true, true);
        var process = Process.Start(start)!;
        process.ErrorDataReceived += (_, _) => { };
        process.OutputDataReceived += (_, _) => { };
        process.BeginErrorReadLine();
        process.BeginOutputReadLine();
        await Eventually.TrueAsync(async () =>
        {
            try
            {
                using var client = new TcpClient();
                await client.ConnectAsync(IPAddress.Loopback, at);
                return true;
            }
            catch (SocketException)
            {
                return false;
            }
        });
        return new Pooler(process, at, home);
    }

    // In memory where there is room: a database is some three hundred files, and a journal of them is of no use to anybody.
    private static string Folder()
    {
        const string Memory = "/dev/shm";
        return Directory.Exists(Memory) && new DriveInfo(Memory).AvailableFreeSpace > MostInMemory
            ? Directory.CreateDirectory(Path.Combine(Memory, "valtro-pg" + Guid.NewGuid().ToString("N"))).FullName
            : Directory.CreateTempSubdirectory("valtro-pg").FullName;
    }

    /// <summary>A port on loopback that nobody has.</summary>
    internal static int FreePort()
    {
        using var probe = new TcpListener(IPAddress.Loopback, 0);
        probe.Start();
        return ((IPEndPoint)probe.LocalEndpoint).Port;
    }

    private string NextName() => $"test{Interlocked.Increment(ref databases)}";

    private async Task<string> CreateAsync(string name, string options)
    {
        await ExecuteAsync($"create database {name} {options}");
        return ConnectionString(name);
    }

    private async Task ExecuteAsync(string sql)
    {
        await using var connection = new NpgsqlConnection(ConnectionString("postgres"));
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand(sql, connection);
        await command.ExecuteNonQueryAsync();
    }

    private string ConnectionString(string database) => $"Host=127.0.0.1;Port={port};Database={database};Username=valtro;Maximum Pool Size=20";

    private static void Postgres(string program, params string[] arguments)
    {
        var bin = Directory.GetDirectories("/usr/lib/postgresql").OrderByDescending(d => int.Parse(Path.GetFileName(d))).First();
        var path = Path.Combine(bin, "bin", program);
        // PostgreSQL refuses to run as root.
        if (Environment.UserName == "root")
            Run("runuser", ["-u", "postgres", "--", path, .. arguments]);
        else
            Run(path, arguments);
    }

    private static void Run(string program, params string[] arguments)
    {
        var start = new ProcessStartInfo(program, arguments) { WorkingDirectory = "/" };
        // Output that the started server inherits would keep a pipe open for good, so it goes nowhere.
        if (program is "runuser" || program.EndsWith("pg_ctl", StringComparison.Ordinal) || program.EndsWith("initdb", StringComparison.Ordinal))
            start = new ProcessStartInfo("/bin/sh", ["-c", "exec \"$@\" >/dev/null 2>&1", "sh", program, .. arguments]) { WorkingDirectory = "/" };
        using var process = Process.Start(start)!;
        process.WaitForExit();
        if (process.ExitCode != 0)
            throw new InvalidOperationException($"{program} {string.Join(' ', arguments)} ended with {process.ExitCode}");
    }
}

/// <summary>A pooler before the cluster.</summary>
public sealed class Pooler(Process process, int port, string home) : IAsyncDisposable
{
    /// <summary>A way to a database of the cluster that leads through it.</summary>
    public string Lead(string database) => new NpgsqlConnectionStringBuilder(database) { Port = port }.ConnectionString;

    public async ValueTask DisposeAsync()
    {
        process.Kill(entireProcessTree: true);
        await process.WaitForExitAsync();
        process.Dispose();
        Directory.Delete(home, recursive: true);
    }
}
