using Valtro.Core.Recurrence.Sentences;
using Valtro.Core.SchoolYears;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Recurrence;

public class RuleSentenceTests
{
    [Theory]
    [InlineData("FREQ=WEEKLY", "every week on Tuesday", "chaque semaine le mardi")]
    [InlineData("FREQ=WEEKLY;BYDAY=TU", "every Tuesday", "chaque mardi")]
    [InlineData("FREQ=WEEKLY;INTERVAL=2;BYDAY=TU,TH;UNTIL=20261212", "every second Tuesday and Thursday until 12 December 2026", "toutes les deux semaines, le mardi et jeudi jusqu’au 12 décembre 2026")]
    [InlineData("FREQ=WEEKLY;INTERVAL=3;BYDAY=MO,WE,FR", "every 3 weeks on Monday, Wednesday and Friday", "toutes les 3 semaines, le lundi, mercredi et vendredi")]
    [InlineData("FREQ=DAILY;COUNT=5", "every day, 5 times", "chaque jour, 5 fois")]
    [InlineData("FREQ=DAILY;INTERVAL=2;COUNT=1", "every second day, once", "tous les deux jours, 1 fois")]
    [InlineData("FREQ=DAILY;BYDAY=MO,TU,WE,TH,FR", "every day from Monday to Friday", "chaque jour du lundi au vendredi")]
    [InlineData("FREQ=DAILY;INTERVAL=3;BYDAY=MO", "every 3 days on Monday", "tous les 3 jours le lundi")]
    [InlineData("FREQ=DAILY;BYMONTH=1,2", "every day in January and February", "chaque jour en janvier et février")]
    [InlineData("FREQ=MONTHLY", "every month on day 1", "chaque mois le 1er")]
    [InlineData("FREQ=MONTHLY;BYMONTHDAY=15,-1", "every month on day 15 and the last day", "chaque mois le 15 et le dernier jour")]
    [InlineData("FREQ=MONTHLY;BYDAY=2TU", "every month on the second Tuesday", "chaque mois le deuxième mardi")]
    [InlineData("FREQ=MONTHLY;INTERVAL=2;BYDAY=1SU,-1SU", "every second month on the first Sunday and the last Sunday", "tous les deux mois le premier dimanche et le dernier dimanche")]
    [InlineData("FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-1", "every month on the last day from Monday to Friday", "chaque mois le dernier jour du lundi au vendredi")]
    [InlineData("FREQ=MONTHLY;BYDAY=TU,TH;BYSETPOS=3", "every month on the third Tuesday or Thursday", "chaque mois le troisième mardi ou jeudi")]
    [InlineData("FREQ=MONTHLY;BYDAY=FR;BYMONTHDAY=13", "every month on day 13 when that is a Friday", "chaque mois le 13 quand c’est un vendredi")]
    [InlineData("FREQ=YEARLY", "every year on 1 September", "chaque année le 1er septembre")]
    [InlineData("FREQ=YEARLY;INTERVAL=4;BYMONTH=11;BYDAY=TU;BYMONTHDAY=2,3", "every 4 years on day 2 and day 3 when that is a Tuesday in November", "tous les 4 ans le 2 et le 3 quand c’est un mardi en novembre")]
    [InlineData("FREQ=YEARLY;BYDAY=20MO", "every year on the 20th Monday", "chaque année le 20e lundi")]
    [InlineData("FREQ=YEARLY;BYWEEKNO=20;BYDAY=MO", "every year in week 20 on Monday", "chaque année en semaine 20 le lundi")]
    [InlineData("FREQ=YEARLY;BYYEARDAY=1,-1", "every year on day 1 and −1 of the year", "chaque année le jour 1 et −1 de l’année")]
    [InlineData("FREQ=HOURLY;INTERVAL=3", "every 3 hours", "toutes les 3 heures")]
    [InlineData("FREQ=DAILY;BYHOUR=9,12;BYMINUTE=0", "every day at 9:00 and 12:00", "chaque jour à 9 h 00 et 12 h 00")]
    public void A_rule_is_said_in_both_languages(string rule, string english, string french)
    {
        Assert.Equal(english, RuleSentence.Of(Rule(rule), At("2026-09-01 09:30"), "en"));
        Assert.Equal(french, RuleSentence.Of(Rule(rule), At("2026-09-01 09:30"), "fr"));
    }

    [Fact]
    public void Every_kind_of_rule_has_a_sentence()
    {
        for (var seed = 0; seed < 1000; seed++)
        {
            var rule = Rule(new RuleMaker(seed).Rule(withShort: true));
            foreach (var language in new[] { "en", "fr" })
            {
                var sentence = RuleSentence.Of(rule, At("2026-09-01 09:30"), language);
                Assert.DoesNotContain("  ", sentence);
                Assert.InRange(sentence.Length, 8, 600);
            }
        }
    }

    [Theory]
    [InlineData("FREQ=DAILY", SchoolDayChoice.OnSchoolDays, ClosureChoice.LeaveOut, "", "", "every school day", "chaque jour de classe")]
    [InlineData("FREQ=DAILY;COUNT=8", SchoolDayChoice.AnyDay, ClosureChoice.Keep, "3", "", "every Day 3, 8 times", "chaque jour 3, 8 fois")]
    [InlineData("FREQ=DAILY;UNTIL=20261218", SchoolDayChoice.AnyDay, ClosureChoice.Keep, "1,4", "", "every Day 1 and Day 4 until 18 December 2026", "chaque jour 1 et jour 4 jusqu’au 18 décembre 2026")]
    [InlineData("FREQ=WEEKLY;BYDAY=TU", SchoolDayChoice.InTerm, ClosureChoice.LeaveOut, "", "", "every Tuesday in term, closures left out", "chaque mardi en période de cours, sans les jours de fermeture")]
    [InlineData("FREQ=WEEKLY;BYDAY=MO", SchoolDayChoice.InTerm, ClosureChoice.Keep, "", "1", "every Monday in term in week Red", "chaque lundi en période de cours en semaine Red")]
    [InlineData("FREQ=WEEKLY;BYDAY=FR", SchoolDayChoice.AnyDay, ClosureChoice.NextOpenDay, "", "", "every Friday, on a closure the next open day", "chaque vendredi, en cas de fermeture le jour ouvert suivant")]
    [InlineData("FREQ=MONTHLY;BYDAY=-1FR", SchoolDayChoice.AnyDay, ClosureChoice.PreviousOpenDay, "", "", "every month on the last Friday, on a closure the open day before", "chaque mois le dernier vendredi, en cas de fermeture le jour ouvert précédent")]
    [InlineData("FREQ=WEEKLY;BYDAY=TH", SchoolDayChoice.OnSchoolDays, ClosureChoice.LeaveOut, "", "2,3", "every Thursday on school days in week Green and 3", "chaque jeudi les jours de classe en semaine Green et 3")]
    [InlineData("FREQ=WEEKLY;BYDAY=TH", SchoolDayChoice.AnyDay, ClosureChoice.Keep, "2,5", "", "every Thursday when it is Day 2 or Day 5", "chaque jeudi quand c’est jour 2 ou jour 5")]
    public void How_a_series_follows_school_days_is_said_too(
        string rule, SchoolDayChoice days, ClosureChoice closures, string cycle, string weeks, string english, string french)
    {
        static IEnumerable<int> Numbers(string text) => text.Split(',', StringSplitOptions.RemoveEmptyEntries).Select(int.Parse);
        var follows = SchoolDayRule.Of(days, closures, Numbers(cycle), Numbers(weeks));
        string Said(string language) => RuleSentence.Of(Rule(rule), At("2026-09-01 09:30"), language, follows, ["Red", "Green"]);
        Assert.Equal((english, french), (Said("en"), Said("fr")));
    }
}
