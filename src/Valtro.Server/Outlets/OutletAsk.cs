using System.Globalization;
using Microsoft.AspNetCore.WebUtilities;
using NodaTime;
using Valtro.Core.Publishing;
using Valtro.Server.Api;

namespace Valtro.Server.Outlets;

/// <summary>
/// What is asked of a publication, as it stands in the address: which outlet, and whatever makes it another one. The same is
/// asked where two of these are equal, so it is what answers are kept by; and it is all that is needed to make one anew.
/// </summary>
/// <param name="Kind">Which outlet.</param>
internal abstract record OutletAsk(OutletKind Kind)
{
    private const int MaxDate = 80;
    private const string Small = "small";
    private static readonly string[] Sizes = [Small, "large"];

    /// <summary>
    /// Whether a bound number of such addresses is all there is of a publication: what names days or words can be made up without
    /// end, and is not made before somebody asks for it.
    /// </summary>
    public virtual bool IsPlain => true;

    /// <summary>Whether it is kept on disk when it was asked for: all but what somebody sought. Of what is not plain a bound number.</summary>
    public virtual bool IsKept => true;

    /// <summary>The address it is asked by, after the link: read again it is the same (<see cref="Read(string)"/>).</summary>
    public abstract string Address { get; }

    /// <summary>Makes it.</summary>
    public abstract Task<Rendered> RenderAsync(OutletWork work);

    /// <summary>Reads an address as <see cref="Address"/> writes it.</summary>
    public static OutletAsk? Read(string address)
    {
        var cut = address.IndexOf('?', StringComparison.Ordinal);
        return Read(cut < 0 ? address : address[..cut], new QueryCollection(QueryHelpers.ParseQuery(cut < 0 ? "" : address[cut..])));
    }

    /// <summary>Reads an address.</summary>
    /// <param name="rest">What comes after the link in the path, without its first stroke.</param>
    /// <param name="query">The query.</param>
    /// <returns>What is asked; null when there is no such outlet.</returns>
    /// <exception cref="BadHttpRequestException">A day that is needed is missing or none.</exception>
    public static OutletAsk? Read(string rest, IQueryCollection query)
    {
        var language = OutletPlace.LanguageOf(query);
        if (rest.Length > 2 && rest.StartsWith("e/", StringComparison.OrdinalIgnoreCase))
            return ReadDate(rest[2..], query, language);
        if (rest.StartsWith("files/", StringComparison.OrdinalIgnoreCase) && rest.Split('/') is [_, var id, .. var name] && name.Length < 2 && Guid.TryParse(id, out var content))
            return Brought(content, name.FirstOrDefault());
        return rest.ToLowerInvariant() switch
        {
            "" => new OfDocument(OutletShape.Page, OutletPlace.OfQuery(query)),
            "embed" => new OfDocument(OutletShape.OfQuery(query), OutletPlace.OfQuery(query)),
            // What a reader chose on the page can be followed: never more than the publication, under one address a choice.
            "feed.ics" => new OfFeed(OutletPlace.OfQuery(query).Choice),
            "found.json" => new OfFound(OutletPlace.OfQuery(query).Choice, language),
            "events.json" => new OfDays(DayOf(query, "from"), DayOf(query, "to"), language),
            "wall" => new OfWall(OutletPlace.OfQuery(query) with { Date = null }, OutletShape.OfQuery(query).Light),
            "term" => new OfTerm(language),
            "snapshot.ics" => new OfFile(OutletKind.Snapshot),
            "busy.ifb" => new OfFile(OutletKind.Busy),
            "feed.json" => new OfFile(OutletKind.JCal),
            "atom.xml" => new OfFile(OutletKind.Atom),
            "dates.json" => new OfFile(OutletKind.Json),
            "dates.csv" => new OfFile(OutletKind.Csv),
            "qr.svg" => new OfCode(IsPage: false, IsSvg: true),
            "qr.png" => new OfCode(IsPage: false, IsSvg: false),
            "qr-page.svg" => new OfCode(IsPage: true, IsSvg: true),
            "qr-page.png" => new OfCode(IsPage: true, IsSvg: false),
            _ => null,
        };
    }

    /// <summary>What somebody brought: a picture of a publication or of its events, or a file of an event.</summary>
    /// <param name="id">Of the picture or file.</param>
    /// <param name="name">Of a picture its size, <c>small</c> or <c>large</c>, which may be a file's name, too; any other name says nothing.</param>
    public static OutletAsk Brought(Guid id, string? name = null) => new OfBrought(id, Sizes.FirstOrDefault(s => string.Equals(s, name, StringComparison.OrdinalIgnoreCase)));

    private static OfDate? ReadDate(string date, IQueryCollection query, string? language)
    {
        var isEmbed = date.EndsWith("/embed", StringComparison.OrdinalIgnoreCase);
        if (isEmbed)
            date = date[..^6];
        if (date.Contains('/', StringComparison.Ordinal))
            return null;
        var isFile = !isEmbed && date.EndsWith(".ics", StringComparison.OrdinalIgnoreCase);
        // Nothing is sought under a name that can be none, and nothing kept of it.
        var name = (isFile ? date[..^4] : date) is { Length: <= MaxDate } sought ? sought : "";
        return new OfDate(isFile ? OutletKind.EventFile : OutletKind.Event, name, isFile ? null : language, isEmbed, isEmbed ? OutletShape.OfQuery(query).Light : null);
    }

    // What is not said is left out.
    private static string Written(string path, OutletPlace? place = null, params (string Name, string? Value)[] more)
    {
        var query = (place?.Choice.Query ?? "").TrimStart('?');
        (string Name, string? Value)[] parts = [.. more, ("date", place?.Date is { } date ? Day(date) : null), ("lang", place?.Language)];
        foreach (var (name, value) in parts)
            query += value is null ? "" : $"{(query.Length == 0 ? "" : "&")}{name}={value}";
        return query.Length == 0 ? path : $"{path}?{query}";
    }

    private static string Day(LocalDate day) => day.ToString("uuuu-MM-dd", CultureInfo.InvariantCulture);

    private static string? ThemeOf(ThemeLight? light) => light?.ToString().ToLowerInvariant();

    private static LocalDate DayOf(IQueryCollection query, string name) =>
        DayParameter.TryParse(query[name], null, out var day) ? day : throw new BadHttpRequestException($"The address needs a day in “{name}”, as 2026-11-23.");

    private sealed record OfDocument(OutletShape Shape, OutletPlace Place) : OutletAsk(Shape.IsPage ? OutletKind.Page : OutletKind.Embed)
    {
        public override bool IsPlain => IsKept && Place.Date is null;

        public override bool IsKept => Place.Choice.Words.Length == 0;

        public override string Address => Written(
            Shape.IsPage ? "" : "embed", Place, ("view", Shape.View?.ToString().ToLowerInvariant()), ("count", Shape.Count > 0 ? Shape.Count.ToString(CultureInfo.InvariantCulture) : null), ("theme", ThemeOf(Shape.Light)));

        public override Task<Rendered> RenderAsync(OutletWork work) =>
            work.Renderer.DocumentAsync(work.Projection, work.On, work.Key, Shape, Place, $"/p/{work.Key}/events.json?", $"/p/{work.Key}/found.json");
    }

    private sealed record OfFeed(ReaderChoice Choice) : OutletAsk(OutletKind.Feed)
    {
        public override bool IsPlain => IsKept;

        public override bool IsKept => Choice.Words.Length == 0;

        public override string Address => Written("feed.ics", new OutletPlace(null, Choice));

        public override Task<Rendered> RenderAsync(OutletWork work) => Task.FromResult(work.Renderer.Feed(work.Projection, work.On, work.Key, Choice));
    }

    private sealed record OfFound(ReaderChoice Choice, string? Language) : OutletAsk(OutletKind.Days)
    {
        public override bool IsPlain => false;

        public override bool IsKept => false;

        public override string Address => Written("found.json", new OutletPlace(null, Choice, Language));

        public override Task<Rendered> RenderAsync(OutletWork work) => Task.FromResult(OutletRenderer.Found(work.Projection, work.On, work.Key, Choice, Language));
    }

    private sealed record OfDays(LocalDate From, LocalDate To, string? Language) : OutletAsk(OutletKind.Days)
    {
        public override bool IsPlain => false;

        public override string Address => Written("events.json", new OutletPlace(null, ReaderChoice.None, Language), ("from", Day(From)), ("to", Day(To)));

        public override Task<Rendered> RenderAsync(OutletWork work) => Task.FromResult(OutletRenderer.Events(work.Projection, work.On, work.Key, From, To, Language));
    }

    private sealed record OfWall(OutletPlace Place, ThemeLight? Light) : OutletAsk(OutletKind.Wall)
    {
        public override bool IsPlain => IsKept;

        public override bool IsKept => Place.Choice.Words.Length == 0;

        public override string Address => Written("wall", Place, ("theme", ThemeOf(Light)));

        public override Task<Rendered> RenderAsync(OutletWork work) => work.Renderer.WallAsync(work.Projection, work.On, work.Key, Place, Light);
    }

    private sealed record OfTerm(string? Language) : OutletAsk(OutletKind.Term)
    {
        public override string Address => Written("term", new OutletPlace(null, ReaderChoice.None, Language));

        public override Task<Rendered> RenderAsync(OutletWork work) => work.Renderer.TermAsync(work.Projection, work.On, work.Key, Language);
    }

    private sealed record OfFile(OutletKind Kind) : OutletAsk(Kind)
    {
        public override string Address => Kind switch
        {
            OutletKind.Snapshot => "snapshot.ics",
            OutletKind.Busy => "busy.ifb",
            OutletKind.JCal => "feed.json",
            OutletKind.Atom => "atom.xml",
            OutletKind.Json => "dates.json",
            _ => "dates.csv",
        };

        public override Task<Rendered> RenderAsync(OutletWork work)
        {
            var (outlets, projection, on, key) = (work.Renderer, work.Projection, work.On, work.Key);
            return Task.FromResult(Kind switch
            {
                OutletKind.Snapshot => outlets.Snapshot(projection, on, key),
                OutletKind.Busy => outlets.Busy(projection, on, key),
                OutletKind.JCal => outlets.JCalendar(projection, on, key),
                OutletKind.Atom => outlets.Atom(projection, on, key),
                OutletKind.Json => outlets.PlainJson(projection, on, key),
                OutletKind.Csv => OutletRenderer.Csv(projection, on, key),
                _ => throw new InvalidOperationException($"{Kind} is no file."),
            });
        }
    }

    private sealed record OfCode(bool IsPage, bool IsSvg) : OutletAsk(OutletKind.Code)
    {
        public override string Address => $"qr{(IsPage ? "-page" : "")}.{(IsSvg ? "svg" : "png")}";

        public override Task<Rendered> RenderAsync(OutletWork work) => Task.FromResult(work.Renderer.Code(work.Projection, work.On, work.Key, IsPage, IsSvg));
    }

    private sealed record OfBrought(Guid Id, string? Size) : OutletAsk(OutletKind.File)
    {
        public override string Address => Size is null ? $"files/{Id:D}" : $"files/{Id:D}/{Size}";

        public override Task<Rendered> RenderAsync(OutletWork work) => work.Renderer.BroughtAsync(work.Projection, work.On, Id, Size == Small, work.Before);
    }

    private sealed record OfDate(OutletKind Kind, string Name, string? Language, bool IsEmbed, ThemeLight? Light) : OutletAsk(Kind)
    {
        public override bool IsPlain => false;

        public override string Address => Written($"e/{Name}{(Kind == OutletKind.EventFile ? ".ics" : IsEmbed ? "/embed" : "")}", new OutletPlace(null, ReaderChoice.None, Language), ("theme", ThemeOf(Light)));

        public override async Task<Rendered> RenderAsync(OutletWork work)
        {
            var (outlets, projection, on, key) = (work.Renderer, work.Projection, work.On, work.Key);
            if ((projection.Find(Name) ?? projection.NextOf(Name, on.Day)) is not { } found)
                return await outlets.NoDateAsync(projection, on, key, projection.IsNoLonger(Name), Language);
            return Kind == OutletKind.EventFile
                ? outlets.DateFile(projection, on, key, found)
                : await outlets.DateAsync(projection, on, key, found, Language, IsEmbed, Light);
        }
    }
}

/// <summary>What an outlet is made from.</summary>
/// <param name="Renderer">Makes it.</param>
/// <param name="Projection">What goes out.</param>
/// <param name="On">The school, and the day it is made for.</param>
/// <param name="Key">The link it is asked by, which stands in what it links to.</param>
/// <param name="Before">The answer as it was made last; null for none.</param>
internal sealed record OutletWork(OutletRenderer Renderer, Projection Projection, SchoolDay On, string Key, Rendered? Before = null);

/// <summary>A school on a day of its own zone.</summary>
/// <param name="School">The school.</param>
/// <param name="Day">The day.</param>
internal sealed record SchoolDay(Store.School School, LocalDate Day)
{
    /// <summary>When the day begins.</summary>
    public Instant Begins => Core.Time.Zones.ToInstant(Day.AtMidnight(), School.Zone);

    /// <summary>When the next one does.</summary>
    public Instant Ends => Core.Time.Zones.ToInstant(Day.PlusDays(1).AtMidnight(), School.Zone);

    /// <summary>The day a school has at a moment.</summary>
    public static SchoolDay At(Store.School school, Instant now) => new(school, now.InZone(school.Zone).Date);
}
