using NodaTime;
using OtpNet;
using Valtro.Store;

namespace Valtro.Server.Accounts;

/// <summary>Checks the codes of authenticators (RFC 6238) and recovery codes, each once.</summary>
internal sealed class SecondFactors(Store.Accounts accounts, IClock clock)
{
    private const int SecretBytes = 20;

    public static byte[] NewSecret() => KeyGeneration.GenerateRandomKey(SecretBytes);

    /// <summary>What an authenticator reads, from a picture or typed.</summary>
    public static string UriOf(byte[] secret, string email) =>
        new OtpUri(OtpType.Totp, secret, email, "Valtro").ToString();

    /// <summary>Whether a code is right now; it is taken then.</summary>
    public async Task<bool> TakeAsync(Guid schoolId, Guid personId, SecondFactor factor, string? code)
    {
        var typed = new string([.. (code ?? "").Where(c => !char.IsWhiteSpace(c))]);
        if (typed.Length == 6 && typed.All(char.IsAsciiDigit))
        {
            // A step before and after: clocks differ a little (5.2).
            var totp = new Totp(factor.Secret);
            return totp.VerifyTotp(clock.GetCurrentInstant().ToDateTimeUtc(), typed, out var step, VerificationWindow.RfcSpecifiedNetworkDelay)
                && await accounts.TakeStepAsync(schoolId, personId, step);
        }
        return factor.IsOn && typed.Length is >= 10 and <= 40 && await accounts.TakeRecoveryAsync(schoolId, personId, Store.Accounts.HashOf(typed));
    }
}
