using System.Collections.Concurrent;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using System.Threading.Channels;
using NodaTime;
using NodaTime.Text;
using Valtro.Server.Api;
using Valtro.Store;

namespace Valtro.Server.Outlets;

/// <summary>What was kept of one thing that is asked of one link.</summary>
/// <param name="Key">The link.</param>
/// <param name="Ask">What is asked.</param>
/// <param name="State">The publication as it was known then.</param>
/// <param name="Rendered">The answer.</param>
/// <param name="At">When it was written.</param>
internal sealed record KeptFile(string Key, OutletAsk Ask, PublicationState State, Rendered Rendered, Instant At);

/// <summary>
/// The last good bytes of published addresses on disk, beside memory: a server that starts has them at once, with or without a
/// database. One file an answer, in a folder a link; written in the background, one after the other, and believed only when their hash
/// is right. What is for members alone is never written. Of what there can be any number of, days and single dates, the last hundred of
/// a link are kept, and read when they are asked for.
/// </summary>
internal sealed class KeptFiles : BackgroundService
{
    private const string Ending = ".kept";
    private const string HeardName = "heard";
    private const string Part = ".part";
    private const string More = "+";
    private const string MoreEnding = More + Ending;
    private const int MaxOfLink = 200;
    private const int MaxMoreOfLink = 100;
    private const int HashLength = 64;
    // Of all that may be kept no file takes more than so much of it.
    private const int LargestPart = 4;
    private const long LargePiece = 256 * 1024;
    private const long LeastFree = 256L * 1024 * 1024;

    // Another build, or another address in the links, makes other bytes.
    private readonly string version;
    private readonly string folder;
    private readonly long limit;
    private readonly Contents contents;
    private readonly IClock clock;
    private readonly ILogger<KeptFiles> log;
    private readonly Channel<Work> waiting = Channel.CreateUnbounded<Work>(new UnboundedChannelOptions { SingleReader = true });
    private readonly Channel<Work> fetched = Channel.CreateUnbounded<Work>(new UnboundedChannelOptions { SingleReader = true });
    private readonly ConcurrentDictionary<Guid, ConcurrentDictionary<string, bool>> keysOf = [];
    private readonly Instant heardBefore;
    private long size;
    private long warnedAt = long.MinValue / 2;

    private readonly record struct Work(Kept? Kept, Guid Removed, TaskCompletionSource? Done = null, Fetched? Fetched = null);

    /// <summary>A large file that was laid beside its place.</summary>
    private sealed record Fetched(Rendered Rendered, string Part);

    public KeptFiles(ServerSettings settings, Contents contents, IClock clock, ILogger<KeptFiles> log)
    {
        (this.contents, this.clock, this.log) = (contents, clock, log);
        (folder, limit) = (settings.Kept == "none" ? "" : Path.GetFullPath(settings.Kept), settings.KeptMegabytes * 1024L * 1024);
        version = $"{typeof(KeptFiles).Module.ModuleVersionId:N} {settings.Address}";
        heardBefore = Instant.MinValue;
        if (folder.Length == 0)
            return;
        try
        {
            // What goes out is for everybody who has the link; a folder can be listed.
            Directory.CreateDirectory(folder, UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute);
            if (File.Exists(HeardPath) && InstantPattern.General.Parse(File.ReadAllText(HeardPath).Trim()) is { Success: true, Value: var at })
                heardBefore = at;
            foreach (var left in Directory.EnumerateFiles(folder, "*" + Part, SearchOption.AllDirectories))
                File.Delete(left);
            foreach (var file in new DirectoryInfo(folder).EnumerateFiles("*" + Ending, SearchOption.AllDirectories))
            {
                size += file.Length;
                if (file.Name.Length > 32 && Guid.TryParseExact(file.Name.AsSpan(0, 32), "N", out var id))
                    keysOf.GetOrAdd(id, _ => [])[file.Directory!.Name] = true;
            }
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            log.LogWarning("Nothing can be kept in {Folder} ({Message}): without the database nothing is served after a restart.", folder, error.Message);
            folder = "";
        }
    }

    // Whole or not at all: what reads sees the file of before or the new one.
    private void NoteNow(Instant at)
    {
        File.WriteAllText(HeardPath + Part, InstantPattern.General.Format(at));
        File.Move(HeardPath + Part, HeardPath, overwrite: true);
    }

    private string HeardPath => Path.Combine(folder, HeardName);

    /// <summary>When changes were last heard of, by this server or by the one before it in this folder.</summary>
    public Instant AsOf(Instant heard) => Instant.Max(heard, heardBefore);

    /// <summary>Notes when changes were heard of.</summary>
    public void NoteHeard(Instant at)
    {
        if (folder.Length > 0 && at > heardBefore)
            Try(() => NoteNow(at));
    }

    /// <summary>Writes an answer in the background, if it is one that is kept and as long as it is the answer.</summary>
    public void Write(Kept kept)
    {
        if (folder.Length > 0 && !kept.IsOnDisk && kept.Ask.IsKept && kept.Standing.State is { IsPersonal: false } && kept.Rendered is { Status: StatusCodes.Status200OK })
            (kept.Rendered.IsLarge ? fetched : waiting).Writer.TryWrite(new Work(kept, default));
    }

    /// <summary>Removes all of a publication, after what was to be written before.</summary>
    public void Remove(Guid publicationId)
    {
        if (folder.Length > 0 && keysOf.ContainsKey(publicationId))
            waiting.Writer.TryWrite(new Work(null, publicationId));
    }

    /// <summary>Whether anything is kept on disk at all.</summary>
    public bool IsOn => folder.Length > 0;

    /// <summary>Whether an answer of a publication is there, in whatever state.</summary>
    public bool Has(string key, PublicationState state, OutletAsk ask) => IsSafe(key) && File.Exists(PathOf(key, state.Id, ask));

    /// <summary>Waits until what was to be written and removed so far is.</summary>
    public async Task SettleAsync()
    {
        foreach (var channel in new[] { fetched, waiting })
        {
            var done = new TaskCompletionSource();
            channel.Writer.TryWrite(new Work(null, default, done));
            await done.Task;
        }
    }

    /// <summary>What is kept of a link for something that is asked; null for nothing.</summary>
    public async Task<KeptFile?> ReadAsync(string key, OutletAsk ask)
    {
        if (folder.Length == 0 || !ask.IsKept || !IsSafe(key))
            return null;
        try
        {
            var named = new DirectoryInfo(Path.Combine(folder, key));
            return named.Exists && named.EnumerateFiles($"*-{NameOf(ask)}{Ending}").MaxBy(f => f.LastWriteTimeUtc) is { } file ? await ReadAsync(file.FullName) : null;
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            Warn(error);
            return null;
        }
    }

    /// <summary>The bytes of a large file that are kept, after their hash was found to be right; null for none.</summary>
    /// <param name="key">The link.</param>
    /// <param name="state">Its publication.</param>
    /// <param name="ask">What is asked.</param>
    /// <param name="rendered">The answer, as it is known.</param>
    public async Task<Stream?> OpenAsync(string key, PublicationState state, OutletAsk ask, Rendered rendered)
    {
        if (folder.Length == 0 || state.IsPersonal || !IsSafe(key) || await OpenAsync(PathOf(key, state.Id, ask)) is not { } opened)
            return null;
        if (opened.Head.Rendered.Hash == rendered.Hash)
            return opened.Body;
        await opened.Body.DisposeAsync();
        return null;
    }

    /// <summary>All that is kept of what there is a bound number of and is held in memory, the latest first.</summary>
    public async IAsyncEnumerable<KeptFile> ReadAllAsync()
    {
        if (folder.Length == 0)
            yield break;
        foreach (var file in new DirectoryInfo(folder).EnumerateFiles("*" + Ending, SearchOption.AllDirectories).Where(IsHeld).OrderByDescending(f => f.LastWriteTimeUtc))
        {
            if (await ReadAsync(file.FullName) is { } kept)
                yield return kept;
        }
    }

    /// <summary>The same of one publication.</summary>
    public async IAsyncEnumerable<KeptFile> ReadOfAsync(Guid publicationId)
    {
        if (!keysOf.TryGetValue(publicationId, out var keys))
            yield break;
        foreach (var key in keys.Keys)
        {
            var named = new DirectoryInfo(Path.Combine(folder, key));
            foreach (var file in named.Exists ? named.GetFiles($"{publicationId:N}-*{Ending}").Where(IsHeld) : [])
            {
                if (await ReadAsync(file.FullName) is { } kept)
                    yield return kept;
            }
        }
    }

    protected override Task ExecuteAsync(CancellationToken stopping) => Task.WhenAll(WorkAsync(), FetchAsync(stopping));

    private async Task WorkAsync()
    {
        // What was heard of is done before the end, so it does not end with the others.
        await foreach (var work in waiting.Reader.ReadAllAsync(CancellationToken.None))
        {
            if (work.Fetched is { } laid)
                Try(() => PlaceNow(work.Kept!, laid));
            else if (work.Kept is { } kept)
                Try(() => WriteNow(kept, null));
            else if (work.Done is { } done)
                done.SetResult();
            else
                Try(() => RemoveNow(work.Removed));
        }
    }

    // Large files come from the database, for which nothing that has to go may wait: they are laid beside their place first.
    private async Task FetchAsync(CancellationToken stopping)
    {
        await foreach (var work in fetched.Reader.ReadAllAsync(stopping))
        {
            if (work.Done is { } done)
                done.SetResult();
            else if (work.Kept is { IsOnDisk: false, Rendered: { IsLarge: true } rendered, Standing: { State: { } state } standing } kept && rendered.PlainLength <= limit / LargestPart && IsSafe(standing.Key))
                await TryAsync(() => FetchNowAsync(kept, rendered, state, stopping));
        }
    }

    public override async Task StopAsync(CancellationToken cancellationToken)
    {
        fetched.Writer.TryComplete();
        waiting.Writer.TryComplete();
        await base.StopAsync(cancellationToken);
    }

    private async Task FetchNowAsync(Kept kept, Rendered rendered, PublicationState state, CancellationToken stopping)
    {
        if (new DriveInfo(folder).AvailableFreeSpace < LeastFree + rendered.PlainLength)
            throw new IOException("The disk is nearly full.");
        var part = $"{PathOf(kept.Standing.Key, state.Id, kept.Ask)}.{Guid.NewGuid():N}{Part}";
        Directory.CreateDirectory(Path.GetDirectoryName(part)!);
        // Before it is there: what goes meanwhile is removed with it.
        keysOf.GetOrAdd(state.Id, _ => [])[kept.Standing.Key] = true;
        var isWhole = false;
        try
        {
            // It may be taken out while it is read.
            isWhole = await WriteAsync(part, HeadOf(kept, state, rendered), contents.ReadAsync(state.SchoolId, rendered.ContentId!.Value, 0), stopping) == rendered.PlainLength
                && waiting.Writer.TryWrite(new Work(kept, default, Fetched: new Fetched(rendered, part)));
        }
        finally
        {
            if (!isWhole)
                File.Delete(part);
        }
    }

    private void PlaceNow(Kept kept, Fetched laid)
    {
        try
        {
            if (kept.Rendered == laid.Rendered && File.Exists(laid.Part))
                WriteNow(kept, laid.Part);
        }
        finally
        {
            File.Delete(laid.Part);
        }
    }

    private FileHead HeadOf(Kept kept, PublicationState state, Rendered rendered) => new(version, kept.Standing.Key, kept.Ask.Address, state, rendered.Head, clock.GetCurrentInstant());

    private void WriteNow(Kept kept, string? laid)
    {
        var (standing, rendered) = (kept.Standing, kept.Rendered);
        // Of a publication that may have to go nothing is written; it is when that was looked up.
        if (kept.IsOnDisk || rendered is null || rendered.IsLarge == (laid is null) || standing.State is not { } state || standing.Doubt == Doubt.Narrowed || rendered.Revision < state.NarrowedRevision || !IsSafe(standing.Key))
            return;
        var named = new DirectoryInfo(Path.Combine(folder, standing.Key));
        var path = PathOf(standing.Key, state.Id, kept.Ask);
        var before = new FileInfo(path) is { Exists: true } known ? known.Length : 0;
        if (before == 0 && named.Exists && !HasRoom(named, kept.Ask.IsPlain))
            return;
        if (new DriveInfo(folder).AvailableFreeSpace < LeastFree)
            throw new IOException("The disk is nearly full.");
        named.Create();
        var part = new FileInfo(laid ?? path + Part);
        if (laid is null)
            Write(part.FullName, HeadOf(kept, state, rendered), rendered.Kept);
        keysOf.GetOrAdd(state.Id, _ => [])[standing.Key] = true;
        size += part.Length - before;
        part.MoveTo(path, overwrite: true);
        kept.IsOnDisk = kept.Rendered == rendered;
        if (size > limit)
            MakeRoom();
    }

    // What can be made up without end has a number of its own, of which the oldest goes.
    private bool HasRoom(DirectoryInfo named, bool isPlain)
    {
        if (isPlain)
            return named.EnumerateFiles("*" + Ending).Count(IsPlain) < MaxOfLink;
        foreach (var old in named.GetFiles("*" + MoreEnding).OrderByDescending(f => f.LastWriteTimeUtc).Skip(MaxMoreOfLink - 1))
        {
            size -= old.Length;
            old.Delete();
        }
        return true;
    }

    private string PathOf(string key, Guid publicationId, OutletAsk ask) => Path.Combine(folder, key, $"{publicationId:N}-{NameOf(ask)}{Ending}");

    private void RemoveNow(Guid publicationId)
    {
        if (!keysOf.TryRemove(publicationId, out var keys))
            return;
        foreach (var key in keys.Keys)
        {
            var named = new DirectoryInfo(Path.Combine(folder, key));
            if (!named.Exists)
                continue;
            foreach (var file in named.EnumerateFiles($"{publicationId:N}-*"))
            {
                if (!file.Name.EndsWith(Part, StringComparison.Ordinal))
                    size -= file.Length;
                file.Delete();
            }
        }
    }

    // What was written longest ago goes; before any page the large pieces, which are files somebody brought, and what can be made up.
    private void MakeRoom()
    {
        foreach (var file in new DirectoryInfo(folder).EnumerateFiles("*" + Ending, SearchOption.AllDirectories).OrderByDescending(f => f.Length > LargePiece || !IsPlain(f)).ThenBy(f => f.LastWriteTimeUtc))
        {
            if (size <= limit / 10 * 9)
                return;
            size -= file.Length;
            file.Delete();
        }
    }

    // A hash of all that follows, what is said of the bytes, and the bytes. It is no answer before it is whole and has its name.
    private static void Write(string path, FileHead head, byte[] body)
    {
        using var file = Begin(path, out var hash);
        using (hash)
        {
            Add(file, hash, Said(head));
            Add(file, hash, body);
            End(file, hash);
        }
    }

    /// <returns>How many bytes there were.</returns>
    private static async Task<long> WriteAsync(string path, FileHead head, IAsyncEnumerable<byte[]> body, CancellationToken stopping)
    {
        await using var file = Begin(path, out var hash);
        using (hash)
        {
            Add(file, hash, Said(head));
            var length = 0L;
            await foreach (var bytes in body)
            {
                stopping.ThrowIfCancellationRequested();
                Add(file, hash, bytes);
                length += bytes.Length;
            }
            End(file, hash);
            return length;
        }
    }

    private static FileStream Begin(string path, out IncrementalHash hash)
    {
        var file = new FileStream(path, new FileStreamOptions { Mode = FileMode.Create, Access = FileAccess.Write, UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite });
        hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        file.Position = HashLength + 1;
        return file;
    }

    private static byte[] Said(FileHead head) => [.. JsonSerializer.SerializeToUtf8Bytes(head, OutletRenderer.Json), (byte)'\n'];

    private static void Add(FileStream file, IncrementalHash hash, byte[] bytes)
    {
        hash.AppendData(bytes);
        file.Write(bytes);
    }

    private static void End(FileStream file, IncrementalHash hash)
    {
        file.Position = 0;
        file.Write(Encoding.ASCII.GetBytes(Convert.ToHexStringLower(hash.GetHashAndReset()) + "\n"));
    }

    private async Task<KeptFile?> ReadAsync(string path)
    {
        if (await OpenAsync(path) is not var (head, body))
            return null;
        await using (body)
        {
            if (OutletAsk.Read(head.Address) is not { } ask)
                return null;
            // What another build made is shown when there is nothing else, and made anew when there is.
            var said = head.Version == version ? head.Rendered : head.Rendered with { FreshUntil = Instant.FromUnixTimeTicks(0) };
            var isLarge = said is { IsCompact: true, FileName: not null } && Rendered.IsLargeOf(said.PlainLength);
            var bytes = new byte[isLarge ? 0 : body.Length - body.Position];
            body.ReadExactly(bytes);
            return new KeptFile(head.Key, ask, head.State, new Rendered(said, bytes) { PublicationId = head.State.Id }, head.At);
        }
    }

    // What is said of the bytes, and where they begin; null where there is nothing, or not what was written.
    private async Task<(FileHead Head, FileStream Body)?> OpenAsync(string path)
    {
        FileStream? file = null;
        try
        {
            file = new FileStream(path, FileMode.Open, FileAccess.Read, FileShare.ReadWrite | FileShare.Delete, 1 << 16);
            if (await HeadAsync(file) is { } head)
            {
                var opened = file;
                file = null;
                return (head, opened);
            }
            log.LogWarning("{File} is not what was written; it is dropped and made anew.", Path.GetFileName(path));
            File.Delete(path);
        }
        catch (Exception error) when (error is FileNotFoundException or DirectoryNotFoundException)
        {
            // Removed meanwhile.
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            Warn(error);
        }
        finally
        {
            if (file is not null)
                await file.DisposeAsync();
        }
        return null;
    }

    private static async Task<FileHead?> HeadAsync(FileStream file)
    {
        var begin = new byte[HashLength + 1];
        if (await file.ReadAtLeastAsync(begin, begin.Length, throwOnEndOfStream: false) < begin.Length || begin[HashLength] != '\n')
            return null;
        var hash = Convert.ToHexStringLower(await SHA256.HashDataAsync(file));
        if (Encoding.ASCII.GetString(begin, 0, HashLength) != hash)
            return null;
        file.Position = begin.Length;
        using var said = new MemoryStream();
        for (int next; (next = file.ReadByte()) != '\n';)
        {
            if (next < 0)
                return null;
            said.WriteByte((byte)next);
        }
        try
        {
            return JsonSerializer.Deserialize<FileHead>(said.ToArray(), OutletRenderer.Json) is { } head && OutletAsk.Read(head.Address) is not null ? head : null;
        }
        // Of a version that wrote otherwise.
        catch (Exception error) when (error is JsonException or BadHttpRequestException)
        {
            return null;
        }
    }

    private static string NameOf(OutletAsk ask) => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(ask.Address)).AsSpan(0, 12)) + (ask.IsPlain ? "" : More);

    // Whether it is read into memory before somebody asks for it.
    private static bool IsHeld(FileInfo file) => IsPlain(file) && !Rendered.IsLargeOf(file.Length);

    private static bool IsPlain(FileInfo file) => !file.Name.EndsWith(MoreEnding, StringComparison.Ordinal);

    // Links are letters, digits and strokes; whatever else is asked for is no name of a folder.
    private static bool IsSafe(string key) => key.Length is > 0 and <= 60 && key.All(c => char.IsAsciiLetterLower(c) || char.IsAsciiDigit(c) || c == '-');

    private void Try(Action work)
    {
        try
        {
            work();
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            Warn(error);
        }
    }

    private async Task TryAsync(Func<Task> work)
    {
        try
        {
            await work();
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            Warn(error);
        }
        // A large file is written when the database answers.
        catch (Exception error) when (DatabaseAwayException.Is(error))
        {
        }
    }

    // A full disk is said once a minute, not once a file.
    private void Warn(Exception error)
    {
        if (Environment.TickCount64 - warnedAt < 60_000)
            return;
        warnedAt = Environment.TickCount64;
        log.LogWarning("Answers cannot be kept on disk: {Message}", error.Message);
    }

    private sealed record FileHead(string Version, string Key, string Address, PublicationState State, RenderedHead Rendered, Instant At);
}
