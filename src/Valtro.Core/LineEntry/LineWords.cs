using NodaTime;

namespace Valtro.Core.LineEntry;

/// <summary>The words a line may use in one language, lower case and without accents.</summary>
internal sealed record LineWords
{
    public required string[] Every { get; init; }
    public required string[] Other { get; init; }
    public required string[] Daily { get; init; }
    public required string[] Weekly { get; init; }
    public required string[] Day { get; init; }
    public required string[] Week { get; init; }
    public required string[] And { get; init; }
    public required string[] On { get; init; }
    public required string[] Until { get; init; }
    public required string[] Times { get; init; }
    public required string[][] AllDay { get; init; }
    public required string[] Weekdays { get; init; }
    public required string[] Months { get; init; }

    public static LineWords English { get; } = new()
    {
        Every = ["every", "each"],
        Other = ["other", "second"],
        Daily = ["daily"],
        Weekly = ["weekly"],
        Day = ["day", "days"],
        Week = ["week", "weeks"],
        And = ["and", "&", "+"],
        On = ["on"],
        Until = ["until", "till", "til"],
        Times = ["times", "x"],
        AllDay = [["all", "day"], ["all-day"], ["allday"]],
        Weekdays = ["monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"],
        Months = ["january", "february", "march", "april", "may", "june", "july", "august", "september", "october", "november", "december"],
    };

    public static LineWords French { get; } = new()
    {
        Every = ["chaque", "tous", "toutes"],
        Other = ["deux"],
        Daily = ["quotidien", "quotidienne"],
        Weekly = ["hebdomadaire"],
        Day = ["jour", "jours"],
        Week = ["semaine", "semaines"],
        And = ["et", "&", "+"],
        On = ["le", "les"],
        Until = ["jusqu'au", "jusqu’au", "jusqua"],
        Times = ["fois"],
        AllDay = [["toute", "la", "journee"], ["journee", "entiere"]],
        Weekdays = ["lundi", "mardi", "mercredi", "jeudi", "vendredi", "samedi", "dimanche"],
        Months = ["janvier", "fevrier", "mars", "avril", "mai", "juin", "juillet", "aout", "septembre", "octobre", "novembre", "decembre"],
    };

    public static LineWords For(string language) => language == "fr" ? French : English;

    public IsoDayOfWeek Weekday(string word)
    {
        var index = Find(Weekdays, word, plural: true);
        return index < 0 ? IsoDayOfWeek.None : (IsoDayOfWeek)(index + 1);
    }

    /// <summary>1 to 12, or 0.</summary>
    public int Month(string word) => Find(Months, word, plural: false) + 1;

    /// <summary>The name a word shortens, at three letters or more; -1 when it is none, or could be two.</summary>
    private static int Find(string[] names, string word, bool plural)
    {
        var found = -1;
        if (word.Length < 3)
            return found;
        for (var i = 0; i < names.Length; i++)
        {
            if (names[i] == word || (plural && names[i] + "s" == word))
                return i;
            if (names[i].StartsWith(word, StringComparison.Ordinal))
                found = found < 0 ? i : -2;
        }
        return Math.Max(found, -1);
    }
}
