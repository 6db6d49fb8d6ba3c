using System.Globalization;

namespace Valtro.Core.Publishing;

/// <summary>One choice of a publication that is another in two states of it.</summary>
/// <param name="Choice">Its name: of the settings themselves, or after a dot of the choices, the look or the theme.</param>
/// <param name="Before">What it was, for numbers, words, and yes or no; null for what a word does not say.</param>
/// <param name="After">What it is.</param>
public sealed record SettingDifference(string Choice, string? Before, string? After)
{
    /// <summary>Everything that is different, in the order of the studio's questions.</summary>
    public static IReadOnlyList<SettingDifference> Between(PublicationSettings a, PublicationSettings b)
    {
        var found = new List<SettingDifference>();
        void Compare<T>(string choice, T before, T after)
        {
            if (!EqualityComparer<T>.Default.Equals(before, after))
                found.Add(new SettingDifference(choice, Said(before), Said(after)));
        }

        void CompareAll<T>(string choice, IEnumerable<T> before, IEnumerable<T> after)
        {
            if (!before.SequenceEqual(after))
                found.Add(new SettingDifference(choice, null, null));
        }

        Compare("title", a.Title, b.Title);
        Compare("introduction", a.Introduction, b.Introduction);
        CompareAll("calendars", a.CalendarIds, b.CalendarIds);
        var (was, now) = (a.Choices, b.Choices);
        CompareAll("perCalendar", was.Calendars, now.Calendars);
        CompareAll("categories", was.CategoryIds, now.CategoryIds);
        CompareAll("tags", was.Tags, now.Tags);
        Compare("text", was.Text, now.Text);
        Compare("kinds", was.Kinds, now.Kinds);
        Compare("hidesCalledOff", was.HidesCalledOff, now.HidesCalledOff);
        Compare("daysBack", was.DaysBack, now.DaysBack);
        Compare("daysAhead", was.DaysAhead, now.DaysAhead);
        Compare("from", was.From, now.From);
        Compare("until", was.Until, now.Until);
        Compare("audience", a.Audience, b.Audience);
        Compare("language", a.Language, b.Language);
        Compare("firstView", a.FirstView, b.FirstView);
        var (old, look) = (a.Look, b.Look);
        CompareAll("views", old.Views, look.Views);
        Compare("showsTitle", old.ShowsTitle, look.ShowsTitle);
        Compare("showsNavigation", old.ShowsNavigation, look.ShowsNavigation);
        Compare("showsKey", old.ShowsKey, look.ShowsKey);
        Compare("showsZone", old.ShowsZone, look.ShowsZone);
        Compare("showsSubscribe", old.ShowsSubscribe, look.ShowsSubscribe);
        Compare("showsPrint", old.ShowsPrint, look.ShowsPrint);
        Compare("weekStart", old.WeekStart, look.WeekStart);
        Compare("isWholeMonth", old.IsWholeMonth, look.IsWholeMonth);
        Compare("isReadersZone", old.IsReadersZone, look.IsReadersZone);
        Compare("hours", old.Hours, look.Hours);
        Compare("count", old.Count, look.Count);
        Compare("isLatestFirst", old.IsLatestFirst, look.IsLatestFirst);
        Compare("groupsByDay", old.GroupsByDay, look.GroupsByDay);
        Compare("isOnEachDay", old.IsOnEachDay, look.IsOnEachDay);
        Compare("showsDescriptions", old.ShowsDescriptions, look.ShowsDescriptions);
        Compare("emptyText", old.EmptyText, look.EmptyText);
        Compare("newsDays", old.NewsDays, look.NewsDays);
        Compare("picture", old.Picture, look.Picture);
        Compare("preset", old.Theme.Preset, look.Theme.Preset);
        Compare("ground", old.Theme.Ground, look.Theme.Ground);
        Compare("ink", old.Theme.Ink, look.Theme.Ink);
        Compare("accent", old.Theme.Accent, look.Theme.Accent);
        Compare("type", old.Theme.Type, look.Theme.Type);
        Compare("corner", old.Theme.Corner, look.Theme.Corner);
        Compare("hasBorder", old.Theme.HasBorder, look.Theme.HasBorder);
        Compare("light", old.Theme.Light, look.Theme.Light);
        Compare("css", old.Theme.Css, look.Theme.Css);
        CompareAll("sites", old.Sites, look.Sites);
        Compare("titlePattern", was.TitlePattern, now.TitlePattern);
        CompareAll("leftOut", was.LeftOut, now.LeftOut);
        return found;
    }

    // A style sheet, or whole sentences, say nothing on a line.
    private static string? Said<T>(T value) => value switch
    {
        bool b => b ? "yes" : "no",
        int n => n.ToString(CultureInfo.InvariantCulture),
        string { Length: <= 60 } s when !s.Contains('\n', StringComparison.Ordinal) => s,
        _ => null,
    };
}
