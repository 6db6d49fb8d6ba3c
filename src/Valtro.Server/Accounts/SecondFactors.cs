using System.Security.Cryptography;
using Microsoft.AspNetCore.DataProtection;
using NodaTime;
using OtpNet;
using Valtro.Server.Api;
using Valtro.Server.Audit;
using Valtro.Server.Sessions;
using Valtro.Store;

namespace Valtro.Server.Accounts;

/// <summary>
/// Checks the codes of authenticators (RFC 6238) and recovery codes, each once. Secrets lie in the database encrypted with a key
/// that is kept outside of it (VALTRO_KEYS).
/// </summary>
internal sealed class SecondFactors(Store.Accounts accounts, IDataProtectionProvider protection, SignInThrottle throttle, IClock clock)
{
    private const int SecretBytes = 20;

    /// <summary>Encrypts secrets that were kept before they were encrypted.</summary>
    /// <returns>How many.</returns>
    public Task<int> ProtectOldAsync() => accounts.ReplaceFactorsAsync(SecretBytes, (personId, secret) => Of(personId).Protect(secret));

    /// <summary>A secret as it is kept.</summary>
    public byte[] Protected(Guid personId, byte[] secret) => Of(personId).Protect(secret);

    public static byte[] NewSecret() => KeyGeneration.GenerateRandomKey(SecretBytes);

    /// <summary>What an authenticator reads, from a picture or typed.</summary>
    public static string UriOf(byte[] secret, string email) =>
        new OtpUri(OtpType.Totp, secret, email, "Valtro").ToString();

    /// <summary>Whether a code is right now; it is taken then.</summary>
    /// <exception cref="TooOftenException">It was tried too often.</exception>
    /// <exception cref="InvalidInputException"><c>factor_unreadable</c>: the key it was encrypted with is not there.</exception>
    public async Task<bool> TakeAsync(HttpContext http, Guid schoolId, Guid personId, SecondFactor factor, string? code, byte[]? device = null)
    {
        var tried = throttle.Begin(Guess.Code, http.Network(), personId.ToString(), device);
        if (!await TakeAsync(schoolId, personId, factor, code))
            return false;
        tried.WasRight();
        return true;
    }

    private async Task<bool> TakeAsync(Guid schoolId, Guid personId, SecondFactor factor, string? code)
    {
        var typed = new string([.. (code ?? "").Where(c => !char.IsWhiteSpace(c))]);
        if (typed.Length == 6 && typed.All(char.IsAsciiDigit))
        {
            // A step before and after: clocks differ a little (5.2).
            var totp = new Totp(Readable(personId, factor.Secret));
            return totp.VerifyTotp(clock.GetCurrentInstant().ToDateTimeUtc(), typed, out var step, VerificationWindow.RfcSpecifiedNetworkDelay)
                && await accounts.TakeStepAsync(schoolId, personId, step);
        }
        return factor.IsOn && typed.Length is >= 10 and <= 40 && await accounts.TakeRecoveryAsync(schoolId, personId, Store.Accounts.HashOf(typed));
    }

    // Of one person: a secret put into another's row is none.
    private IDataProtector Of(Guid personId) => protection.CreateProtector("second factor", personId.ToString());

    private byte[] Readable(Guid personId, byte[] secret)
    {
        if (secret.Length == SecretBytes)
            return secret;
        try
        {
            return Of(personId).Unprotect(secret);
        }
        catch (CryptographicException)
        {
            throw new InvalidInputException("factor_unreadable", "code", "The key that second factors are kept with is not on this server. Type a recovery code, or ask whoever runs it.");
        }
    }
}
