using MailKit.Net.Smtp;
using MimeKit;
using NodaTime;
using Valtro.Server.Jobs;
using Valtro.Server.Readers;
using Valtro.Server.Seeing;
using Valtro.Store;

namespace Valtro.Server.People;

/// <summary>How mail leaves.</summary>
internal interface IMailWay
{
    public Task SendAsync(Mail mail, CancellationToken cancellation);
}

/// <summary>Through an SMTP server when one is set, else into the stand-ins' box; without either it waits.</summary>
internal sealed class MailWay(ServerSettings settings, IHttpClientFactory clients) : IMailWay
{
    public async Task SendAsync(Mail mail, CancellationToken cancellation)
    {
        if (settings.Smtp is { } smtp)
        {
            using var message = new MimeMessage();
            message.From.Add(MailboxAddress.Parse(settings.MailFrom));
            message.To.Add(MailboxAddress.TryParse(mail.Recipient, out var recipient) ? recipient : throw new MailRefusedException("This is no e-mail address.", new FormatException()));
            message.Subject = mail.Subject;
            // The same mail sent again after a failure is known by its identity.
            message.MessageId = $"{mail.Id:N}@{new Uri(settings.Address).Host}";
            if (mail.EndsAt is { } end)
            {
                // One click ends it, in mail programs too (RFC 2369, 3.2; RFC 8058, 3.1).
                message.Headers.Add(HeaderId.ListUnsubscribe, $"<{end}>");
                message.Headers.Add(HeaderId.ListUnsubscribePost, "List-Unsubscribe=One-Click");
            }
            message.Body = new TextPart("plain") { Text = mail.Body };
            using var client = new SmtpClient();
            await client.ConnectAsync(smtp.Host, smtp.Port, cancellationToken: cancellation);
            if (smtp.UserInfo.Split(':') is [{ Length: > 0 } name, var password])
                await client.AuthenticateAsync(Uri.UnescapeDataString(name), Uri.UnescapeDataString(password), cancellation);
            try
            {
                await client.SendAsync(message, cancellation);
            }
            catch (SmtpCommandException error) when ((int)error.StatusCode is >= 500 and < 600)
            {
                // It says so of good (RFC 5321, 4.2.1).
                throw new MailRefusedException($"The mail server refused it: {(int)error.StatusCode} {error.Message}", error);
            }
            await client.DisconnectAsync(true, cancellation);
        }
        else if (settings.StandIns.Length > 0)
        {
            using var client = clients.CreateClient();
            using var answer = await client.PostAsJsonAsync(settings.StandIns + "/mail", new { mail.Id, mail.Recipient, mail.Subject, mail.Body, mail.EndsAt }, cancellation);
            answer.EnsureSuccessStatusCode();
        }
        else
        {
            throw new InvalidOperationException("No way for mail is set (VALTRO_SMTP).");
        }
    }
}

/// <summary>A mail that is never taken, however often it is tried; the message says why.</summary>
internal sealed class MailRefusedException(string message, Exception inner) : Exception(message, inner);

/// <summary>
/// Hands over mail that is due, a few at a time and each within its time: a mail server that is silent holds the mails it has, and
/// no others. Nothing is open in the database meanwhile.
/// </summary>
internal sealed class MailSender(Mails mails, IMailWay way, ReaderAddresses readers, ServerSettings settings, Telemetry telemetry, IClock clock, ILogger<MailSender> log) : IJob
{
    private const int AtOnce = 4;
    private static readonly Duration Counted = Duration.FromSeconds(15);

    // Those on their way, also from one run to the next.
    private readonly List<Task> sending = [];
    private Instant countedAt = Instant.MinValue;

    public string Name => "mail";

    public TimeSpan Pause => TimeSpan.FromSeconds(2);

    public async Task RunAsync(CancellationToken stopping)
    {
        var now = clock.GetCurrentInstant();
        while (true)
        {
            sending.RemoveAll(s => s.IsCompleted);
            if (sending.Count == AtOnce)
                await Task.WhenAny([.. sending, Task.Delay(Pause, stopping)]);
            sending.RemoveAll(s => s.IsCompleted);
            if (stopping.IsCancellationRequested || sending.Count == AtOnce || await mails.TakeAsync(now) is not { } mail)
                break;
            sending.Add(SendAsync(mail));
        }
        if (now - countedAt >= Counted)
        {
            (telemetry.MailWaiting, telemetry.MailOldest) = await mails.WaitingAsync(now);
            countedAt = now;
        }
    }

    private async Task SendAsync(Mail mail)
    {
        try
        {
            using var limit = new CancellationTokenSource(TimeSpan.FromSeconds(settings.MailSeconds));
            Exception? problem = null;
            try
            {
                // Who has ended it meanwhile gets nothing.
                if (mail.ReaderId is null)
                    await way.SendAsync(mail, limit.Token).WaitAsync(limit.Token);
                else if (await readers.AddressOfAsync(mail.ReaderId.Value) is { } address)
                    await way.SendAsync(mail with { Recipient = address }, limit.Token).WaitAsync(limit.Token);
            }
            catch (OperationCanceledException error)
            {
                problem = new TimeoutException($"The mail server did not answer within {settings.MailSeconds} seconds.", error);
            }
            catch (Exception error)
            {
                problem = error;
            }
            var now = clock.GetCurrentInstant();
            // An address that takes no mail is forgotten.
            if (problem is MailRefusedException && mail.ReaderId is { } refused)
                await readers.ForgetAsync(refused);
            if (problem is null)
            {
                await mails.SentAsync(mail, now);
                telemetry.Mailed("sent");
                log.LogInformation("Mail {Mail} of school {School} was handed over with try {Try}.", mail.Id, mail.SchoolId, mail.Tries + 1);
            }
            else if (await mails.FailedAsync(mail, problem.Message, problem is MailRefusedException, now) is { } next)
            {
                telemetry.Mailed("failed");
                log.LogWarning("Mail {Mail} of school {School} could not be handed over with try {Try} ({Problem}); again at {Next}.", mail.Id, mail.SchoolId, mail.Tries + 1, problem.GetType().Name, next);
            }
            else
            {
                telemetry.Mailed("refused");
                log.LogWarning("Mail {Mail} of school {School} is given up after {Try} tries; its school's administrators see why.", mail.Id, mail.SchoolId, mail.Tries + 1);
            }
        }
        catch (Exception error)
        {
            // What became of it could not be written down: it is taken again after its time.
            log.LogWarning(error, "What became of mail {Mail} could not be kept.", mail.Id);
        }
    }
}

/// <summary>Lets an address be written to only so often.</summary>
internal sealed class ResetThrottle
{
    private static readonly Duration Pause = Duration.FromMinutes(5);
    private readonly Microsoft.Extensions.Caching.Memory.MemoryCache last = new(new Microsoft.Extensions.Caching.Memory.MemoryCacheOptions { SizeLimit = 20_000 });

    public bool Allows(string email, Instant now)
    {
        var key = email.Trim().ToLowerInvariant();
        if (last.TryGetValue(key, out var value) && value is Instant at && now - at < Pause)
            return false;
        using var entry = last.CreateEntry(key);
        entry.Value = now;
        entry.Size = 1;
        entry.AbsoluteExpirationRelativeToNow = Pause.ToTimeSpan();
        return true;
    }
}
