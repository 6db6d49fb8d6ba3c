using System.Text;
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
    public required string[] At { get; init; }
    public required string[] During { get; init; }
    public required string[] Hours { get; init; }
    public required string[] Minutes { get; init; }
    public required string[] Monthly { get; init; }
    public required string[] Yearly { get; init; }
    public required string[] MonthUnit { get; init; }
    public required string[] Year { get; init; }
    public required string[] The { get; init; }
    public required string[] Last { get; init; }
    public required string[] Ordinals { get; init; }
    public required string[][] OfTheMonth { get; init; }
    public required string[] Today { get; init; }
    public required string[] Tomorrow { get; init; }
    public required string[] Next { get; init; }
    public required string[][] NextWeek { get; init; }
    public required string[] To { get; init; }
    public required string[][] SchoolDay { get; init; }
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
        At = ["at"],
        During = ["for"],
        Hours = ["h", "hr", "hrs", "hour", "hours"],
        Minutes = ["m", "min", "mins", "minute", "minutes"],
        Monthly = ["monthly"],
        Yearly = ["yearly", "annually"],
        MonthUnit = ["month", "months"],
        Year = ["year", "years"],
        The = ["the"],
        Last = ["last"],
        Ordinals = ["first", "second", "third", "fourth", "fifth"],
        OfTheMonth = [["of", "the", "month"], ["of", "each", "month"], ["of", "every", "month"]],
        Today = ["today"],
        Tomorrow = ["tomorrow"],
        Next = ["next"],
        NextWeek = [["next", "week"]],
        To = ["to", "-", "–"],
        SchoolDay = [["school", "day"], ["schoolday"]],
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
        At = ["a"],
        During = ["pendant", "durant"],
        Hours = ["h", "heure", "heures"],
        Minutes = ["m", "min", "minute", "minutes"],
        Monthly = ["mensuel", "mensuelle"],
        Yearly = ["annuel", "annuelle"],
        MonthUnit = ["mois"],
        Year = ["an", "ans", "annee", "annees"],
        The = ["le", "les"],
        Last = ["dernier"],
        Ordinals = ["premier", "deuxieme", "troisieme", "quatrieme", "cinquieme"],
        OfTheMonth = [["du", "mois"], ["de", "chaque", "mois"]],
        Today = ["aujourd'hui", "aujourd’hui"],
        Tomorrow = ["demain"],
        Next = ["prochain"],
        NextWeek = [["la", "semaine", "prochaine"], ["semaine", "prochaine"]],
        To = ["au", "a", "-", "–"],
        SchoolDay = [["jour", "de", "classe"], ["les", "jours", "de", "classe"]],
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

    /// <summary>A text without capitals and accents, letter by letter: words are looked for in it.</summary>
    public static string Plain(string word)
    {
        var plain = new StringBuilder(word.Length);
        foreach (var c in word.ToLowerInvariant())
        {
            plain.Append(c switch
            {
                'à' or 'â' => 'a',
                'ç' => 'c',
                'é' or 'è' or 'ê' or 'ë' => 'e',
                'î' or 'ï' => 'i',
                'ô' => 'o',
                'ù' or 'û' => 'u',
                _ => c,
            });
        }
        return plain.ToString();
    }

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
