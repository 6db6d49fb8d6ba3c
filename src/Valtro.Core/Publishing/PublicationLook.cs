using System.Collections.Immutable;
using NodaTime;
using Valtro.Core.Events;

namespace Valtro.Core.Publishing;

/// <summary>The views a page or an embed can have.</summary>
public enum OutletView
{
    /// <summary>Weeks under each other.</summary>
    Month,

    /// <summary>Day by day.</summary>
    List,

    /// <summary>Seven days.</summary>
    Week,

    /// <summary>One day.</summary>
    Day,

    /// <summary>A short list of what is next.</summary>
    Upcoming,

    /// <summary>What is next, with pictures.</summary>
    Cards,

    /// <summary>A small month whose days tell what is on.</summary>
    Small,
}

/// <summary>How hours are written.</summary>
public enum HourForm
{
    /// <summary>As the publication's language does.</summary>
    Language,

    /// <summary>9:30 pm.</summary>
    Twelve,

    /// <summary>21:30.</summary>
    TwentyFour,
}

/// <summary>How a page and its embeds look and what stands in them. Immutable.</summary>
public sealed record PublicationLook
{
    /// <summary>The longest text for when nothing is on.</summary>
    public const int MaxEmptyText = 200;

    /// <summary>The most events of a short list.</summary>
    public const int MaxCount = 30;

    /// <summary>The most sites that may frame an embed.</summary>
    public const int MaxSites = 20;

    /// <summary>The longest time, in days, that changes are marked.</summary>
    public const int MaxNewsDays = 60;

    /// <summary>The look a new publication has.</summary>
    public static PublicationLook Usual { get; } = new();

    /// <summary>The views a visitor can choose from, in order. The one it opens with is always among them.</summary>
    public ImmutableArray<OutletView> Views { get; init; } = [OutletView.Month, OutletView.List];

    /// <summary>Whether an embed says its title.</summary>
    public bool ShowsTitle { get; init; }

    /// <summary>Whether visitors can go to other days.</summary>
    public bool ShowsNavigation { get; init; } = true;

    /// <summary>Whether the key of calendars stands there, by which visitors switch them off.</summary>
    public bool ShowsKey { get; init; } = true;

    /// <summary>Whether it is said which zone times are in.</summary>
    public bool ShowsZone { get; init; } = true;

    /// <summary>Whether there is a way to subscribe.</summary>
    public bool ShowsSubscribe { get; init; } = true;

    /// <summary>Whether there is a button for print.</summary>
    public bool ShowsPrint { get; init; }

    /// <summary>The day weeks begin with: Monday, Saturday or Sunday.</summary>
    public IsoDayOfWeek WeekStart { get; init; } = IsoDayOfWeek.Monday;

    /// <summary>Whether the month is a whole one of the calendar, instead of this week and those that come.</summary>
    public bool IsWholeMonth { get; init; }

    /// <summary>Whether times are told in the reader's own zone, instead of the school's.</summary>
    public bool IsReadersZone { get; init; }

    /// <summary>How hours are written.</summary>
    public HourForm Hours { get; init; }

    /// <summary>How many events short lists and cards show.</summary>
    public int Count { get; init; } = 6;

    /// <summary>Whether lists begin with what is last.</summary>
    public bool IsLatestFirst { get; init; }

    /// <summary>Whether lists are grouped by day.</summary>
    public bool GroupsByDay { get; init; } = true;

    /// <summary>Whether an event over several days stands on each of them in lists, instead of the first.</summary>
    public bool IsOnEachDay { get; init; }

    /// <summary>Whether lists show descriptions at once, instead of on opening.</summary>
    public bool ShowsDescriptions { get; init; }

    /// <summary>What stands there when nothing is on; empty for a sentence of ours.</summary>
    public string EmptyText { get; init; } = "";

    /// <summary>For how many days new, moved and called-off dates are marked as such; 0 for not.</summary>
    public int NewsDays { get; init; }

    /// <summary>The sites that may frame an embed, as origins, a star for all hosts below one; any when empty.</summary>
    public ImmutableArray<string> Sites { get; init; } = [];

    /// <summary>Colours and type.</summary>
    public OutletTheme Theme { get; init; } = OutletTheme.Usual;

    /// <summary>The picture at the head of the page, or none.</summary>
    public EventPicture? Picture { get; init; }

    /// <summary>The look, checked and in order.</summary>
    /// <param name="first">The view it opens with.</param>
    /// <exception cref="InvalidInputException">
    /// <c>view_unknown</c>, <c>week_start</c>, <c>count_range</c>, <c>news_range</c>, <c>too_many_sites</c>, <c>site_malformed</c>,
    /// <c>text_too_long</c>, or a code of the theme.
    /// </exception>
    public PublicationLook Checked(OutletView first)
    {
        if (!Enum.IsDefined(first) || !Views.All(Enum.IsDefined) || !Enum.IsDefined(Hours))
            throw new InvalidInputException("view_unknown", "look.views", "There is no such view.");
        if (WeekStart is not (IsoDayOfWeek.Monday or IsoDayOfWeek.Saturday or IsoDayOfWeek.Sunday))
            throw new InvalidInputException("week_start", "look.weekStart", "Weeks begin on Monday, Saturday or Sunday.");
        if (Count is < 1 or > MaxCount)
            throw new InvalidInputException("count_range", "look.count", $"A short list shows 1 to {MaxCount} events.");
        if (NewsDays is < 0 or > MaxNewsDays)
            throw new InvalidInputException("news_range", "look.newsDays", $"Changes can be marked for {MaxNewsDays} days at most.");
        var sites = Sites.Select(s => s.Trim()).Where(s => s.Length > 0).Select(Site).Distinct(StringComparer.Ordinal).ToImmutableArray();
        if (sites.Length > MaxSites)
            throw new InvalidInputException("too_many_sites", "look.sites", $"{MaxSites} sites can be named at most.");
        return this with
        {
            Views = [.. Views.Append(first).Distinct()],
            EmptyText = Texts.Line(EmptyText, "look.emptyText", MaxEmptyText),
            Sites = sites,
            Theme = Theme.Checked(),
        };
    }

    // An origin as frame-ancestors has it: scheme, host, port, and nothing that could end the header's part.
    private static string Site(string text)
    {
        var typed = text.Contains("://", StringComparison.Ordinal) ? text : "https://" + text;
        // All hosts below one (CSP 3, 2.3.1, host-source); not below a whole top-level domain.
        if (typed.Split("://*.") is [var scheme, var below])
            return below.Contains('.', StringComparison.Ordinal) && !below.Contains('*', StringComparison.Ordinal) ? Site($"{scheme}://{below}").Replace("://", "://*.", StringComparison.Ordinal) : throw Malformed(text);
        return Uri.TryCreate(typed, UriKind.Absolute, out var site)
            && site.Scheme is "https" or "http"
            && site.UserInfo.Length == 0
            && site.IdnHost.Length > 0
            && site.IdnHost.All(c => char.IsAsciiLetterOrDigit(c) || c is '.' or '-')
                ? site.IsDefaultPort ? $"{site.Scheme}://{site.IdnHost}" : $"{site.Scheme}://{site.IdnHost}:{site.Port}"
                : throw Malformed(text);
    }

    private static InvalidInputException Malformed(string text) =>
        new("site_malformed", "look.sites", $"“{text}” is no site. Type its address, like www.school.example, or *.school.example for all below it.");
}
