using System.Security.Cryptography;
using System.Text;
using NodaTime;
using Valtro.Server.Sessions;
using Valtro.Store;

namespace Valtro.Server.Api;

/// <summary>
/// Lets a request come again whose answer was lost. With the same <c>Idempotency-Key</c> and the same body, within a day, it
/// changes nothing more and gets the first answer. That it was done is kept in the transaction that did it; so of two that come
/// at the same moment one is done, and the other waits for it.
/// </summary>
internal sealed class RepeatMiddleware(RequestDelegate next, RepeatedRequests repeated, IClock clock)
{
    private const string Header = "Idempotency-Key";
    private const int MaxKey = 200;
    private const int Tries = 20;
    private static readonly TimeSpan Pause = TimeSpan.FromMilliseconds(100);

    public async Task InvokeAsync(HttpContext http, CurrentPerson current)
    {
        var key = http.Request.Headers[Header].ToString();
        if (key.Length == 0 || HttpMethods.IsGet(http.Request.Method) || HttpMethods.IsHead(http.Request.Method) || http.User.Identity is not { IsAuthenticated: true })
        {
            await next(http);
            return;
        }
        if (key.Length > MaxKey || key.Any(char.IsControl))
            throw new InvalidInputException("idempotency_key", Header, $"An Idempotency-Key has {MaxKey} characters at most.");
        var hash = await HashAsync(http);
        if (await repeated.FindAsync(http.User.SchoolId(), http.User.PersonId(), key, clock.GetCurrentInstant()) is { } known)
        {
            await AnswerAsync(http, key, hash, known);
            return;
        }
        var request = new Repeatable(key, hash);
        current.Request = request;
        var body = http.Response.Body;
        using var answer = new MemoryStream();
        http.Response.Body = answer;
        try
        {
            await next(http);
        }
        catch (RepeatedException)
        {
            http.Response.Body = body;
            await AnswerAsync(http, key, hash, await repeated.FindAsync(http.User.SchoolId(), http.User.PersonId(), key, clock.GetCurrentInstant()));
            return;
        }
        finally
        {
            http.Response.Body = body;
        }
        if (request is { IsClaimed: true, Answer: null } && http.Response.StatusCode < 400)
            await repeated.AnswerAsync(http.User.SchoolId(), http.User.PersonId(), key, http.Response.StatusCode, http.Response.ContentType, answer.ToArray());
        answer.Position = 0;
        await answer.CopyToAsync(body, http.RequestAborted);
    }

    private static async Task<byte[]> HashAsync(HttpContext http)
    {
        http.Request.EnableBuffering();
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        hash.AppendData(Encoding.UTF8.GetBytes($"{http.Request.Method} {http.Request.Path}{http.Request.QueryString}\n"));
        var buffer = new byte[1 << 16];
        for (int length; (length = await http.Request.Body.ReadAsync(buffer, http.RequestAborted)) > 0;)
            hash.AppendData(buffer.AsSpan(0, length));
        http.Request.Body.Position = 0;
        return hash.GetHashAndReset();
    }

    private async Task AnswerAsync(HttpContext http, string key, byte[] hash, RepeatedRequest? known)
    {
        for (var i = 0; i < Tries && known is { Status: null } && CryptographicOperations.FixedTimeEquals(known.RequestHash, hash); i++)
        {
            // Its answer is just being made.
            await Task.Delay(Pause, http.RequestAborted);
            known = await repeated.FindAsync(http.User.SchoolId(), http.User.PersonId(), key, clock.GetCurrentInstant());
        }
        if (known is null || !CryptographicOperations.FixedTimeEquals(known.RequestHash, hash))
        {
            await Problems.Of(422, "idempotency_key_reused", "This Idempotency-Key was used for another request. Choose a new one.", Header).ExecuteAsync(http);
            return;
        }
        if (known.Status is not { } status)
        {
            await Problems.Of(409, "done_already", "This was done already, but its answer was lost. Nothing was done again; look at how it is now.").ExecuteAsync(http);
            return;
        }
        http.Response.StatusCode = status;
        http.Response.Headers["Idempotency-Replayed"] = "true";
        if (status == StatusCodes.Status204NoContent)
            return;
        http.Response.ContentType = known.ContentType;
        await http.Response.Body.WriteAsync(known.Answer ?? [], http.RequestAborted);
    }
}
