using System.Text;

namespace Valtro.Core.Tests.Recurrence;

/// <summary>Makes rules of every kind the standard allows, the same ones for the same seed.</summary>
internal sealed class RuleMaker(int seed)
{
    private static readonly string[] Days = ["MO", "TU", "WE", "TH", "FR", "SA", "SU"];
    private readonly Random random = new(seed);

    public LocalDateTime Start() =>
        new LocalDate(2019, 1, 1).PlusDays(random.Next(1500)).At(new LocalTime(random.Next(24), random.Next(4) * 15, 0));

    /// <summary>A rule as text; daily and longer, or of every frequency.</summary>
    public string Rule(bool withShort)
    {
        string[] frequencies = ["YEARLY", "MONTHLY", "WEEKLY", "DAILY", "HOURLY", "MINUTELY", "SECONDLY"];
        var frequency = frequencies[random.Next(withShort ? 7 : 4)];
        var isShort = frequency is "HOURLY" or "MINUTELY" or "SECONDLY";
        var text = new StringBuilder("FREQ=").Append(frequency);
        if (Chance(2))
            text.Append(";INTERVAL=").Append(random.Next(1, frequency == "YEARLY" ? 4 : isShort ? 50 : 8));
        var any = false;
        var weeks = frequency == "YEARLY" && Chance(6);

        void Part(string name, string value)
        {
            text.Append(';').Append(name).Append('=').Append(value);
            any = true;
        }

        if (Chance(3))
            Part("BYMONTH", Some(1, 12, 3, false));
        if (weeks)
            Part("BYWEEKNO", Some(1, 53, 3, true));
        if ((frequency == "YEARLY" && Chance(6)) || (isShort && Chance(10)))
            Part("BYYEARDAY", Some(1, 366, 4, true));
        if (frequency != "WEEKLY" && Chance(4))
            Part("BYMONTHDAY", Some(1, 31, 4, true));
        if (Chance(2))
            Part("BYDAY", Weekdays(frequency is "MONTHLY" or "YEARLY" && !weeks, frequency == "YEARLY" ? 50 : 5));
        if (Chance(5))
            Part("BYHOUR", Some(0, 23, 3, false));
        if (Chance(5))
            Part("BYMINUTE", Some(0, 59, 3, false));
        if (Chance(12))
            Part("BYSECOND", Some(0, 59, 2, false));
        if (any && Chance(4))
            text.Append(";BYSETPOS=").Append(Some(1, 6, 2, true));
        if (Chance(4))
            text.Append(";WKST=").Append(Days[random.Next(7)]);
        if (Chance(4))
            text.Append(";COUNT=").Append(random.Next(1, 60));
        return text.ToString();
    }

    private bool Chance(int oneIn) => random.Next(oneIn) == 0;

    private string Some(int least, int most, int count, bool signed)
    {
        var values = Enumerable.Range(0, random.Next(1, count + 1))
            .Select(_ => random.Next(least, most + 1) * (signed && Chance(3) ? -1 : 1));
        return string.Join(',', values.Distinct());
    }

    private string Weekdays(bool numbered, int most) =>
        string.Join(',', Enumerable.Range(0, random.Next(1, 4))
            .Select(_ => (numbered && Chance(2) ? (random.Next(1, most + 1) * (Chance(3) ? -1 : 1)).ToString() : "") + Days[random.Next(7)])
            .Distinct());
}
