using System.Net.Sockets;
using Npgsql;

namespace Valtro.Server.Api;

/// <summary>The database cannot be asked just now.</summary>
internal sealed class DatabaseAwayException(Exception? inner = null) : Exception(inner?.Message ?? "The database did not answer a moment ago.", inner)
{
    /// <summary>Whether an exception says that the database is away, and not that something is wrong with what was asked of it.</summary>
    public static bool Is(Exception error) => error switch
    {
        DatabaseAwayException or TimeoutException or SocketException => true,
        AggregateException { InnerExceptions: { Count: > 0 } all } => all.All(Is),
        // It answers, and can be read.
        PostgresException { SqlState: PostgresErrorCodes.DiskFull } => false,
        // Classes 53, 57 and 08 of SQLSTATE: no room for another connection, an end that was ordered, a connection that broke.
        PostgresException { SqlState: ['5', '3', ..] or ['5', '7', ..] or ['0', '8', ..] } => true,
        // Written to while it is a standby: the one to write to is being changed.
        PostgresException { SqlState: PostgresErrorCodes.ReadOnlySqlTransaction } => true,
        NpgsqlException and not PostgresException => true,
        _ => false,
    };
}

/// <summary>
/// Whether the database was found in order since the server started: its schema is this version's, and the server's role is right. Before
/// that nothing is asked of it.
/// </summary>
internal sealed class DatabaseGate
{
    private readonly TaskCompletionSource opened = new(TaskCreationOptions.RunContinuationsAsynchronously);

    public bool IsOpen => opened.Task.IsCompleted;

    /// <summary>Ends when it is.</summary>
    public Task Opened => opened.Task;

    public void Open() => opened.TrySetResult();
}

internal static class DatabaseGates
{
    private static readonly PathString[] Asking = ["/api", "/follow", "/sitemap.xml"];

    /// <summary>Nothing that asks the database goes on before it was found in order.</summary>
    public static void UseDatabaseGate(this WebApplication app)
    {
        var gate = app.Services.GetRequiredService<DatabaseGate>();
        app.Use((http, next) => !gate.IsOpen && Array.Exists(Asking, path => http.Request.Path.StartsWithSegments(path)) ? throw new DatabaseAwayException() : next(http));
    }
}
