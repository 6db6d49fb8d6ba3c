using Valtro.Server.Jobs;
using Valtro.Server.Seeing;
using Valtro.Store;

namespace Valtro.Server.Limits;

/// <summary>Looks after the disks the server keeps something on, and tells before one is full. The database's own is told by <c>valtro doctor</c> beside it.</summary>
internal sealed class RoomWatch(ServerSettings settings, Telemetry telemetry, ILogger<RoomWatch> log) : IJob
{
    private bool isTold;

    public string Name => "room";

    public TimeSpan Pause => TimeSpan.FromMinutes(10);

    public TimeSpan FirstPause => TimeSpan.FromSeconds(5);

    /// <summary>Whether a disk has little room left.</summary>
    public bool IsLow { get; private set; }

    /// <summary>How the room of a folder's disk is found.</summary>
    internal Func<string, DiskRoom> Look { get; set; } = DiskRoom.Of;

    public Task RunAsync(CancellationToken stopping)
    {
        string[] folders = [.. new[] { settings.Kept, settings.Keys }.Where(Directory.Exists)];
        var rooms = folders.Select(folder => (Folder: folder, Room: Look(folder))).OrderBy(r => (double)r.Room.Free / r.Room.Size).ToList();
        IsLow = rooms.Exists(r => r.Room.IsLow);
        telemetry.DiskFree = rooms.Count > 0 ? rooms.Min(r => r.Room.Free) : 0;
        // Little room is told once, next to none every time.
        var isFull = rooms.Exists(r => r.Room.IsFull);
        if (isFull || (IsLow && !isTold))
            log.Log(isFull ? LogLevel.Error : LogLevel.Warning, "The disk of {Folder} is nearly full: {Free} MB of {Size} are free.", rooms[0].Folder, rooms[0].Room.Free >> 20, rooms[0].Room.Size >> 20);
        isTold = IsLow;
        return Task.CompletedTask;
    }
}
