using MailKit.Net.Smtp;
using MimeKit;
using NodaTime;
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
            message.To.Add(MailboxAddress.Parse(mail.Recipient));
            message.Subject = mail.Subject;
            // The same mail sent again after a failure is known by its identity.
            message.MessageId = $"{mail.Id:N}@{new Uri(settings.Address).Host}";
            message.Body = new TextPart("plain") { Text = mail.Body };
            using var client = new SmtpClient();
            await client.ConnectAsync(smtp.Host, smtp.Port, cancellationToken: cancellation);
            if (smtp.UserInfo.Split(':') is [{ Length: > 0 } name, var password])
                await client.AuthenticateAsync(Uri.UnescapeDataString(name), Uri.UnescapeDataString(password), cancellation);
            await client.SendAsync(message, cancellation);
            await client.DisconnectAsync(true, cancellation);
        }
        else if (settings.StandIns.Length > 0)
        {
            using var client = clients.CreateClient();
            using var answer = await client.PostAsJsonAsync(settings.StandIns + "/mail", new { mail.Id, mail.Recipient, mail.Subject, mail.Body }, cancellation);
            answer.EnsureSuccessStatusCode();
        }
        else
        {
            throw new InvalidOperationException("No way for mail is set (VALTRO_SMTP).");
        }
    }
}

/// <summary>Sends mail that is due, a little after it was written.</summary>
internal sealed class MailSender(Mails mails, IMailWay way, IClock clock, ILogger<MailSender> log) : BackgroundService
{
    private const int Seconds = 2;

    protected override async Task ExecuteAsync(CancellationToken stopping)
    {
        using var timer = new PeriodicTimer(TimeSpan.FromSeconds(Seconds));
        try
        {
            while (await timer.WaitForNextTickAsync(stopping))
                await SendDueAsync(stopping);
        }
        catch (OperationCanceledException)
        {
            // The server stops; what is left is sent after its next start.
        }
    }

    private async Task SendDueAsync(CancellationToken stopping)
    {
        try
        {
            while (await mails.SendNextAsync(mail => way.SendAsync(mail, stopping), clock.GetCurrentInstant()))
            {
            }
        }
        catch (Npgsql.NpgsqlException error)
        {
            log.LogWarning("Mail could not be looked for ({Message}); soon again.", error.Message);
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
