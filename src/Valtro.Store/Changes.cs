namespace Valtro.Store;

/// <summary>A change as it is told: whom it concerns, and by which change what became of events is found where nothing else did.</summary>
/// <param name="SchoolId">The school.</param>
/// <param name="PersonId">Who made it; nobody for the program.</param>
/// <param name="IsOfTeams">Whether members without a part in it see nothing of it.</param>
/// <param name="Concerns">The calendars and persons it concerns then.</param>
/// <param name="EventsId">The change's identity, where it changed a few events and nothing else; null where anything may differ.</param>
public sealed record ChangeNotice(Guid SchoolId, Guid PersonId, bool IsOfTeams, IReadOnlySet<Guid> Concerns, Guid? EventsId = null);

/// <summary>Publications whose outlets are others from now on, as servers tell it to each other.</summary>
/// <param name="SchoolId">The school.</param>
/// <param name="Altered">Those that send out something else, and nothing that may not be shown any more.</param>
/// <param name="Narrowed">Those that may send out less, or not at all.</param>
public sealed record PublicationsNotice(Guid SchoolId, IReadOnlySet<Guid> Altered, IReadOnlySet<Guid> Narrowed)
{
    // A payload has less than 8000 bytes.
    private const int MaxIds = 200;
    private const int Head = 33;

    /// <summary>Whether something of the school's persons changed, too: links of members' own may lead nowhere any more.</summary>
    public bool IsOfMembers { get; init; }

    /// <summary>As it is told: the school, a letter that no identity has, and the publications.</summary>
    internal IEnumerable<string> Write()
    {
        IEnumerable<string> Parts(char kind, IReadOnlySet<Guid> ids) =>
            ids.Order().Chunk(MaxIds).Select(part => $"{SchoolId:N}{kind}{string.Concat(part.Select(id => id.ToString("N")))}");
        return [.. IsOfMembers ? [$"{SchoolId:N}x"] : Array.Empty<string>(), .. Parts('y', Altered), .. Parts('z', Narrowed)];
    }

    /// <summary>Reads what was told; null when it is of another kind.</summary>
    public static PublicationsNotice? Read(string payload)
    {
        if (payload.Length < Head || (payload.Length - Head) % 32 != 0 || payload[Head - 1] is not ('x' or 'y' or 'z') || !Guid.TryParseExact(payload.AsSpan(0, 32), "N", out var schoolId))
            return null;
        var ids = new HashSet<Guid>();
        for (var i = Head; i < payload.Length; i += 32)
        {
            if (!Guid.TryParseExact(payload.AsSpan(i, 32), "N", out var id))
                return null;
            ids.Add(id);
        }
        var none = new HashSet<Guid>();
        return payload[Head - 1] == 'z' ? new PublicationsNotice(schoolId, none, ids) : new PublicationsNotice(schoolId, ids, none) { IsOfMembers = payload[Head - 1] == 'x' };
    }
}

/// <summary>What is told through PostgreSQL (NOTIFY) with every change.</summary>
public static class Changes
{
    /// <summary>The channel.</summary>
    public const string Channel = "valtro_changes";

    /// <summary>A change of more events is told as one of anything: to look anew is less than to ask for each.</summary>
    public const int MaxEvents = 20;

    // A payload has less than 8000 bytes.
    private const int MaxIds = 200;
    private const int Head = 3 * 32 + 1;

    /// <param name="author">Who made it.</param>
    /// <param name="isForMembers">Whether every member may see something of it.</param>
    /// <param name="concerns">The calendars and persons it concerns beside, or alone.</param>
    /// <param name="eventsId">The change's identity, where it changed a few events and nothing else.</param>
    internal static string[] Write(Author author, bool isForMembers, IReadOnlyCollection<Guid> concerns, Guid? eventsId)
    {
        var head = $"{author.SchoolId:N}{author.PersonId ?? Guid.Empty:N}{eventsId ?? Guid.Empty:N}";
        IEnumerable<string> ofTeams = concerns.Order().Chunk(MaxIds).Select(ids => head + 't' + string.Concat(ids.Select(id => id.ToString("N")))).DefaultIfEmpty(head + 't');
        return isForMembers ? concerns.Count == 0 ? [head + 'm'] : [head + 'm', .. ofTeams] : [.. ofTeams];
    }

    /// <summary>Reads what was told; null when it is nothing of ours.</summary>
    public static ChangeNotice? Read(string payload)
    {
        if (payload.Length < Head || (payload.Length - Head) % 32 != 0)
            return null;
        var ids = new List<Guid>();
        for (var i = 0; i < payload.Length; i += i == Head - 33 ? 33 : 32)
        {
            if (!Guid.TryParseExact(payload.AsSpan(i, 32), "N", out var id))
                return null;
            ids.Add(id);
        }
        return new ChangeNotice(ids[0], ids[1], payload[Head - 1] == 't', ids.Skip(3).ToHashSet(), ids[2] == Guid.Empty ? null : ids[2]);
    }
}
