using NodaTime;

namespace Valtro.Core.Recurrence.Sentences;

internal sealed class FrenchWords : SentenceWords
{
    private static readonly string[] One =
        ["chaque seconde", "chaque minute", "chaque heure", "chaque jour", "chaque semaine", "chaque mois", "chaque année"];

    private static readonly string[] Many =
        ["toutes les {0} secondes", "toutes les {0} minutes", "toutes les {0} heures", "tous les {0} jours", "toutes les {0} semaines", "tous les {0} mois", "tous les {0} ans"];

    private static readonly string[] Ordinals = ["premier", "deuxième", "troisième", "quatrième", "cinquième"];

    public override string EveryWorkday => "chaque jour du lundi au vendredi";

    public override string Workday => "jour du lundi au vendredi";

    protected override string And => "et";

    protected override string[] Weekdays { get; } = ["lundi", "mardi", "mercredi", "jeudi", "vendredi", "samedi", "dimanche"];

    protected override string[] Months { get; } =
        ["janvier", "février", "mars", "avril", "mai", "juin", "juillet", "août", "septembre", "octobre", "novembre", "décembre"];

    public override string Every(Frequency frequency, int interval) =>
        interval == 1 ? One[(int)frequency] : Many[(int)frequency].Replace("{0}", interval == 2 ? "deux" : interval.ToString(), StringComparison.Ordinal);

    public override string EveryWeekday(int interval, string days) =>
        interval == 1 ? $"chaque {days}" : $"{Every(Frequency.Weekly, interval)}, le {days}";

    public override string OnWeekdays(string days) => $"le {days}";

    public override string OnThe(string days) => days;

    public override string OnDate(string date) => $"le {date}";

    public override string OnMonthDays(string days) => days;

    public override string OnYearDays(string days) => $"le jour {days} de l’année";

    public override string InWeeks(string weeks) => $"en semaine {weeks}";

    public override string InMonths(string months) => $"en {months}";

    public override string WhenThatIs(string days) => $"quand c’est {days}";

    public override string AnyOf(string days) => $"un {days.Replace(" et ", " ou ", StringComparison.Ordinal)}";

    public override string MonthDay(int day) => day switch
    {
        -1 => "le dernier jour",
        < 0 => $"le {-day}e jour avant la fin",
        1 => "le 1er",
        _ => $"le {day}",
    };

    public override string Numbered(int number, string day)
    {
        var plain = day.StartsWith("un ", StringComparison.Ordinal) ? day[3..] : day;
        return number switch
        {
            -1 => $"le dernier {plain}",
            -2 => $"l’avant-dernier {plain}",
            < 0 => $"le {-number}e {plain} avant la fin",
            _ => $"le {(number <= Ordinals.Length ? Ordinals[number - 1] : number + "e")} {plain}",
        };
    }

    public override string OnlyPositions(string positions) => $"(le numéro {positions} d’entre eux)";

    public override string AtTimes(string times) => $"à {times}";

    public override string InHours(string hours) => $"dans l’heure {hours}";

    public override string AtMinutes(string minutes) => $"à la minute {minutes}";

    public override string AtSeconds(string seconds) => $"à la seconde {seconds}";

    public override string Clock(int hour, int minute) => $"{hour} h {minute:00}";

    public override string DayAndMonth(LocalDate date) => $"{(date.Day == 1 ? "1er" : date.Day)} {Month(date.Month)}";

    public override string Until(string date) => $"jusqu’au {date}";

    public override string CountTimes(int count) => $", {count} fois";

    public override string EverySchoolDay => "chaque jour de classe";

    public override string OnSchoolDays => "les jours de classe";

    public override string InTerm => "en période de cours";

    public override string ClosuresLeftOut => "sans les jours de fermeture";

    public override string ClosuresNext => "en cas de fermeture le jour ouvert suivant";

    public override string ClosuresPrevious => "en cas de fermeture le jour ouvert précédent";

    public override string EveryOf(string days) => $"chaque {days}";

    public override string WhenCycleDay(string days) => $"quand c’est {days.Replace(" et ", " ou ", StringComparison.Ordinal)}";

    public override string CycleDay(int day) => $"jour {day}";

    public override string InAlternateWeeks(string weeks) => $"en semaine {weeks}";
}
