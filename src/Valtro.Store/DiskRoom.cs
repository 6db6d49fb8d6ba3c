namespace Valtro.Store;

/// <summary>How much room a disk has.</summary>
/// <param name="Free">Bytes that are free for us.</param>
/// <param name="Size">Bytes in all.</param>
public sealed record DiskRoom(long Free, long Size)
{
    private const long LeastFree = 1L << 30;

    /// <summary>Whether something will soon not be written any more.</summary>
    public bool IsFull => Free < LeastFree || Free < Size / 20;

    /// <summary>Whether somebody should look after it.</summary>
    public bool IsLow => IsFull || Free < Size / 10;

    /// <summary>The room on the disk a folder lies on.</summary>
    /// <exception cref="IOException">It cannot be looked at.</exception>
    public static DiskRoom Of(string folder)
    {
        var drive = new DriveInfo(Path.GetFullPath(folder));
        return new DiskRoom(drive.AvailableFreeSpace, drive.TotalSize);
    }
}
