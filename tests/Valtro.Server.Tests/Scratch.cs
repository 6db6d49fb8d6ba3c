namespace Valtro.Server.Tests;

/// <summary>Folders on disk that are gone when the tests are.</summary>
internal static class Scratch
{
    private static readonly string Root = Begin();
    private static int count;

    /// <summary>A folder of one's own.</summary>
    /// <param name="name">What it begins with, for whoever looks.</param>
    public static string Folder(string name) => Directory.CreateDirectory(Path.Combine(Root, $"{name}-{Interlocked.Increment(ref count)}")).FullName;

    private static string Begin()
    {
        var root = Directory.CreateTempSubdirectory("valtro-tests").FullName;
        AppDomain.CurrentDomain.ProcessExit += (_, _) =>
        {
            try
            {
                Directory.Delete(root, recursive: true);
            }
            catch (Exception error) when (error is IOException or UnauthorizedAccessException)
            {
                // A server that still ends writes there; what is left is in the folder for such things.
            }
        };
        return root;
    }
}
