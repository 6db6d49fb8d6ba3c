using NodaTime;
using Valtro.Core.Publishing;
using Valtro.Core.Time;
using Valtro.Server.Jobs;
using Valtro.Server.Outlets;
using Valtro.Server.Views;
using Valtro.Store;

namespace Valtro.Server.Readers;

/// <summary>Writes to visitors what they asked for: changes once a day at most, or the plan of the week on its day.</summary>
internal sealed class ReaderMailer(MailReaders readers, ReaderAddresses addresses, Projections projections, Schools schools, ServerSettings settings, IClock clock) : IJob
{
    // Who changes much at once is not told of each step; nobody is woken.
    private static readonly Duration Quiet = Duration.FromMinutes(30);
    private static readonly LocalTime From = new(7, 0);
    private static readonly LocalTime PlanFrom = new(15, 0);
    private static readonly LocalTime Until = new(21, 0);

    public string Name => "reader-mail";

    public TimeSpan Pause => TimeSpan.FromMinutes(5);

    public Task RunAsync(CancellationToken stopping) => WriteAsync(clock.GetCurrentInstant());

    /// <returns>How many mails were written.</returns>
    internal async Task<int> WriteAsync(Instant now)
    {
        await readers.ForgetAsync(now);
        var mails = 0;
        await Each.DoAsync(await schools.ListAsync(), async school =>
        {
            var local = now.InZone(school.Zone);
            if (local.TimeOfDay < From || local.TimeOfDay >= Until)
                return;
            var plan = local.TimeOfDay < PlanFrom ? (ReaderWish?)null : local.DayOfWeek switch { IsoDayOfWeek.Sunday => ReaderWish.Sunday, IsoDayOfWeek.Friday => ReaderWish.Friday, _ => null };
            var dayBegan = Zones.ToInstant(local.Date.AtMidnight(), school.Zone);
            await Each.DoAsync(await readers.DueAsync(school.Id, local.Date, plan, dayBegan, now - Quiet, now - Duration.FromDays(ToldDates.DaysAhead / 2)), async id =>
            {
                var (projection, _) = await projections.OfAsync(school.Id, id);
                if (projection.Publication.Choices.IsOut(now))
                    mails += await WriteAsync(school, projection, plan, local.Date, dayBegan, now);
            });
        });
        return mails;
    }

    private async Task<int> WriteAsync(School school, Projection projection, ReaderWish? plan, LocalDate today, Instant dayBegan, Instant now)
    {
        var (mails, publication) = (0, projection.Publication);
        if (plan is { } wish)
        {
            var monday = today.Next(IsoDayOfWeek.Monday);
            var week = new ToldDates(monday.PlusDays(7), [.. ToldDates.Of(projection, today).Dates.Where(d => d.End.Date >= monday && d.Start.Date < monday.PlusDays(7))]);
            mails += await readers.WriteAsync(school.Id, publication.Id, wish, today, (_, reader) => LetterOf(reader, publication, (texts, page, end, choice) =>
                ReaderLetters.Week(texts, publication, [.. week.Dates.Where(d => d.IsWanted(choice))], page, end)), dayBegan, null, now);
        }
        if (publication.ChangedAt <= now - Quiet)
        {
            var told = ToldDates.Of(projection, today);
            mails += await readers.WriteAsync(
                school.Id,
                publication.Id,
                ReaderWish.Changes,
                today,
                (before, reader) =>
                {
                    var choice = ChoiceOf(reader);
                    var differences = ToldDates.Since(before!, projection, today).Where(d => d.Date.IsWanted(choice)).ToList();
                    return differences.Count == 0 ? null : LetterOf(reader, publication, (texts, page, end, _) => ReaderLetters.Changes(texts, publication, differences, page, end));
                },
                dayBegan,
                // What came into sight by itself has to be known some day, so that what becomes of it is news.
                before => ToldDates.Since(before, projection, today).Count > 0 || before.Until <= today.PlusDays(ToldDates.DaysAhead / 2) ? told : null,
                now);
        }
        return mails;
    }

    private ReaderMail LetterOf(MailReader reader, Publication publication, Func<OutletTexts, string, string, ReaderChoice, (string Subject, string Body)> write)
    {
        var end = addresses.EndOf(reader.Id, reader.Language);
        var (subject, body) = write(OutletTexts.For(reader.Language), settings.OutletUrl(publication.Key, ""), end, ChoiceOf(reader));
        return new ReaderMail(reader.Id, subject, body, end);
    }

    private static ReaderChoice ChoiceOf(MailReader reader)
    {
        var query = Microsoft.AspNetCore.WebUtilities.QueryHelpers.ParseQuery(reader.Choice);
        return ReaderChoice.Read(query.GetValueOrDefault("off"), query.GetValueOrDefault("category"), query.GetValueOrDefault("q"));
    }
}
