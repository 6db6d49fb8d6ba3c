using System.Text;
using NodaTime;
using Valtro.Core.Publishing;
using Valtro.Server.Outlets;

namespace Valtro.Server.Readers;

/// <summary>What visitors are written, in their language.</summary>
internal static class ReaderLetters
{
    // A mail is read, not searched: what is more stands on the page.
    private const int MaxLines = 60;

    public static (string Subject, string Body) Confirm(OutletTexts texts, string title, string link) =>
        (texts.With("mailSubjectConfirm", title), $"{texts.With("mailBodyConfirm", title)}\n\n{link}\n\n{texts["mailBodyNot"]}\n");

    /// <summary>What is different, by what became of it.</summary>
    public static (string Subject, string Body) Changes(OutletTexts texts, Publication publication, IReadOnlyList<ToldDifference> differences, string page, string end)
    {
        var body = new StringBuilder();
        foreach (var (step, name) in new[] { (SentStep.Added, "mailAdded"), (SentStep.Changed, "mailChanged"), (SentStep.Removed, "mailRemoved") })
        {
            var own = differences.Where(d => d.Step == step).ToList();
            if (own.Count == 0)
                continue;
            body.Append(texts[name]).Append('\n');
            Lines(body, texts, publication, [.. own.Select(d => d.Date)], page, withLinks: step != SentStep.Removed);
            body.Append('\n');
        }
        return (texts.With("mailSubjectChanges", publication.Title), Ended(body, texts, page, end));
    }

    /// <summary>The week to come.</summary>
    public static (string Subject, string Body) Week(OutletTexts texts, Publication publication, IReadOnlyList<ToldDate> dates, string page, string end)
    {
        var body = new StringBuilder();
        if (dates.Count == 0)
            body.Append(texts["nothing"]).Append('\n');
        Lines(body, texts, publication, dates, page, withLinks: true);
        body.Append('\n');
        return (texts.With("mailSubjectWeek", publication.Title), Ended(body, texts, page, end));
    }

    private static void Lines(StringBuilder body, OutletTexts texts, Publication publication, IReadOnlyList<ToldDate> dates, string page, bool withLinks)
    {
        foreach (var date in dates.Take(MaxLines))
        {
            body.Append("– ").Append(Span(texts, date, publication.Look.Hours)).Append(": ").Append(date.Title);
            if (date.Place.Length > 0)
                body.Append(" (").Append(date.Place).Append(')');
            if (date.IsCalledOff)
                body.Append(" – ").Append(texts["calledOff"]);
            body.Append('\n');
            if (withLinks)
                body.Append("  ").Append(page).Append("/e/").Append(date.Key).Append(texts.Language == publication.Language ? "" : $"?lang={texts.Language}").Append('\n');
        }
        if (dates.Count > MaxLines)
            body.Append("– ").Append(texts.With("andMore", (dates.Count - MaxLines).ToString(System.Globalization.CultureInfo.InvariantCulture))).Append('\n');
    }

    private static string Span(OutletTexts texts, ToldDate date, HourForm hours)
    {
        // Half-open: what ends at midnight does not touch the day it opens.
        var last = date.End > date.Start && date.End.TimeOfDay == LocalTime.Midnight ? date.End.Date.PlusDays(-1) : date.End.Date;
        return texts.Span(date.Start, date.End, date.Start.Date, last < date.Start.Date ? date.Start.Date : last, date.IsAllDay, hours);
    }

    private static string Ended(StringBuilder body, OutletTexts texts, string page, string end) =>
        body.Append(texts["mailHere"]).Append(":\n").Append(page).Append("\n\n").Append(texts["mailBodyEnd"]).Append('\n').Append(end).Append('\n').ToString();
}
