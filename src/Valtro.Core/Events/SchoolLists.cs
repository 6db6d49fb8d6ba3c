using System.Collections.Immutable;
using Valtro.Core.Reach;

namespace Valtro.Core.Events;

/// <summary>A kind of event in the school's own list.</summary>
/// <param name="Id">Identity.</param>
/// <param name="Name">What people call it.</param>
/// <param name="ParentId">The category it is part of; null at the top.</param>
/// <param name="IsAssessment">Whether events of it are tests, of which a class has only so many a day.</param>
/// <param name="Reach">The most its events allow each audience; null for no limit.</param>
public sealed record Category(Guid Id, string Name, Guid? ParentId, bool IsAssessment, ReachTable? Reach = null);

/// <summary>A room or site of the school. An event is there when its place has this name.</summary>
/// <param name="Id">Identity.</param>
/// <param name="Name">What people call it.</param>
/// <param name="Capacity">How many people fit; null when nobody said.</param>
/// <param name="Address">Where it is, for directions; may be empty.</param>
/// <param name="Latitude">Degrees north (WGS 84); null when unknown.</param>
/// <param name="Longitude">Degrees east (WGS 84); null when unknown.</param>
public sealed record Place(Guid Id, string Name, int? Capacity, string Address, double? Latitude, double? Longitude)
{
    /// <summary>Whether a text names it, whatever the case and the spaces.</summary>
    public bool IsNamed(string text) => NameKey(text) == NameKey(Name);

    /// <summary>What two texts that name one place share.</summary>
    public static string NameKey(string text) =>
        string.Join(' ', text.ToLowerInvariant().Split(' ', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries));
}

/// <summary>What a school keeps for all its calendars: categories, places, and what it holds to.</summary>
public sealed record SchoolLists
{
    /// <summary>The most categories.</summary>
    public const int MaxCategories = 200;

    /// <summary>The most places.</summary>
    public const int MaxPlaces = 500;

    /// <summary>The longest name.</summary>
    public const int MaxName = 100;

    /// <summary>The longest notice, in days.</summary>
    public const int MaxNotice = 60;

    /// <summary>The highest limit for files, in MB.</summary>
    public const int MostMegabytes = 100;

    /// <summary>A school that has set nothing yet.</summary>
    public static readonly SchoolLists Empty = new();

    /// <summary>The categories, in the school's order.</summary>
    public ImmutableArray<Category> Categories { get; init; } = [];

    /// <summary>The places, in the school's order.</summary>
    public ImmutableArray<Place> Places { get; init; } = [];

    /// <summary>Days before its date from which a new or moved event is short notice; 0 for never.</summary>
    public int NoticeDays { get; init; } = 3;

    /// <summary>How many tests a calendar may have on one day; 0 for any number.</summary>
    public int TestsADay { get; init; } = 1;

    /// <summary>The largest file, in MB (10⁶ bytes).</summary>
    public int MaxFileMegabytes { get; init; } = 25;

    /// <summary>Whether 5/12 is the twelfth of May; else it is the fifth of December.</summary>
    public bool IsMonthFirst { get; init; }

    /// <summary>The address of a map page, with <c>{address}</c> where the place's goes; empty for none.</summary>
    public string MapPattern { get; init; } = "";

    /// <summary>Grows with every change.</summary>
    public int Version { get; init; } = 1;

    private readonly NamedPlaces named = new();

    /// <summary>The category with an identity; null when there is none.</summary>
    public Category? Category(Guid? id)
    {
        foreach (var category in Categories)
        {
            if (category.Id == id)
                return category;
        }
        return null;
    }

    /// <summary>The place a text names; null when the school's list has none of that name.</summary>
    public Place? Place(string text)
    {
        return text.Length == 0 ? null : named.Find(Places, text);
    }

    /// <summary>This state as the one that follows another.</summary>
    public SchoolLists After(SchoolLists before) => this with { Version = before.Version + 1 };

    /// <summary>Whether two states say the same.</summary>
    public bool SaysAs(SchoolLists other) =>
        Categories.SequenceEqual(other.Categories) && Places.SequenceEqual(other.Places)
        && (NoticeDays, TestsADay, MaxFileMegabytes, IsMonthFirst, MapPattern) == (other.NoticeDays, other.TestsADay, other.MaxFileMegabytes, other.IsMonthFirst, other.MapPattern);

    /// <summary>The lists with their texts cleaned.</summary>
    /// <exception cref="InvalidInputException">
    /// <c>title_missing</c>, <c>text_too_long</c>, <c>too_many_parts</c>, <c>name_twice</c>, <c>category_parent</c>,
    /// <c>capacity_range</c>, <c>coordinates_range</c>, <c>notice_range</c>, <c>file_limit</c>, <c>map_pattern</c>.
    /// </exception>
    public SchoolLists Checked()
    {
        if (Categories.Length > MaxCategories || Places.Length > MaxPlaces)
            throw new InvalidInputException("too_many_parts", null, $"A school has {MaxCategories} categories and {MaxPlaces} places at most.");
        if (NoticeDays is < 0 or > MaxNotice)
            throw new InvalidInputException("notice_range", "noticeDays", $"Short notice is 0 to {MaxNotice} days.");
        if (TestsADay is < 0 or > 20)
            throw new InvalidInputException("notice_range", "testsADay", "A class has 0 to 20 tests a day; 0 stands for any number.");
        if (MaxFileMegabytes is < 1 or > MostMegabytes)
            throw new InvalidInputException("file_limit", "maxFileMegabytes", $"Files have 1 to {MostMegabytes} MB at most.");
        var map = Texts.Line(MapPattern, "mapPattern", EventFacts.MaxAddress);
        if (map.Length > 0 && (!map.Contains("{address}", StringComparison.Ordinal) || !Uri.TryCreate(map.Replace("{address}", "x", StringComparison.Ordinal), UriKind.Absolute, out var uri) || uri.Scheme is not ("http" or "https")))
            throw new InvalidInputException("map_pattern", "mapPattern", "The map’s address begins with https:// and has {address} where the place’s address goes.");

        var categories = Categories.Select((c, i) => c with { Name = Texts.Title(c.Name, $"categories.{i}.name", MaxName) }).ToList();
        Twice(categories.Select(c => c.Name), "categories");
        for (var i = 0; i < categories.Count; i++)
        {
            // One level below the top is all that people can keep in mind.
            if (categories[i].ParentId is { } parent && categories.FirstOrDefault(c => c.Id == parent) is not { ParentId: null })
                throw new InvalidInputException("category_parent", $"categories.{i}.parentId", "A category is part of one at the top of the list.");
        }
        var places = Places.Select((p, i) =>
        {
            if (p.Capacity is < 1 or > EventFacts.MaxSize)
                throw new InvalidInputException("capacity_range", $"places.{i}.capacity", $"How many people fit: a number from 1 to {EventFacts.MaxSize}, or nothing.");
            if (p.Latitude is null != p.Longitude is null || p.Latitude is < -90 or > 90 or double.NaN || p.Longitude is < -180 or > 180 or double.NaN)
                throw new InvalidInputException("coordinates_range", $"places.{i}.latitude", "Coordinates are both there or both not: degrees north from −90 to 90 and east from −180 to 180.");
            return p with { Name = Texts.Title(p.Name, $"places.{i}.name", MaxName), Address = Texts.Line(p.Address, $"places.{i}.address", 300) };
        }).ToList();
        Twice(places.Select(p => p.Name), "places");
        return this with { Categories = [.. categories], Places = [.. places], MapPattern = map };
    }

    private static void Twice(IEnumerable<string> names, string field)
    {
        var seen = new HashSet<string>();
        foreach (var (name, i) in names.Select((name, i) => (name, i)))
        {
            if (!seen.Add(Events.Place.NameKey(name)))
                throw new InvalidInputException("name_twice", $"{field}.{i}.name", $"“{name}” is in the list twice.");
        }
    }

    // The places by what names them, found out once: every event of a school asks for its own. It goes with copies of the lists, and is made
    // anew where they have other places; it says nothing by which two lists differ.
    private sealed class NamedPlaces
    {
        private volatile Tuple<ImmutableArray<Place>, Dictionary<string, Place>>? known;

        public Place? Find(ImmutableArray<Place> places, string text)
        {
            if (known is not { } names || names.Item1 != places)
                known = names = Tuple.Create(places, ByName(places));
            return names.Item2.GetValueOrDefault(Events.Place.NameKey(text));
        }

        public override bool Equals(object? obj) => obj is NamedPlaces;

        public override int GetHashCode() => 0;

        private static Dictionary<string, Place> ByName(ImmutableArray<Place> places)
        {
            var names = new Dictionary<string, Place>(StringComparer.Ordinal);
            foreach (var place in places)
                names.TryAdd(Events.Place.NameKey(place.Name), place);
            return names;
        }
    }
}
