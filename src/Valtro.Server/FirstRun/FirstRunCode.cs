using System.Security.Cryptography;
using System.Text;

namespace Valtro.Server.FirstRun;

/// <summary>
/// The code that makes the first school: printed once by a server that starts on an empty installation, for whoever reads
/// its output. It ends with the school, or with the server.
/// </summary>
internal sealed class FirstRunCode
{
    private const int Tries = 20;

    // Without letters and digits that are taken for each other.
    private const string Letters = "ABCDEFGHJKMNPQRSTUVWXYZ23456789";

    private readonly Lock gate = new();
    private string? code;
    private int wrong;

    /// <summary>Makes the code, and what is printed of it.</summary>
    public string Make(string address)
    {
        lock (gate)
            (code, wrong) = ($"{RandomNumberGenerator.GetString(Letters, 4)}-{RandomNumberGenerator.GetString(Letters, 4)}-{RandomNumberGenerator.GetString(Letters, 4)}", 0);
        return $"There is no school yet. Open {address}/first-run and type the one-time code {code}";
    }

    /// <summary>Whether a code is right. After many wrong ones none is, until the server starts again.</summary>
    public bool Fits(string? typed)
    {
        lock (gate)
        {
            if (code is null || wrong >= Tries)
                return false;
            var fits = CryptographicOperations.FixedTimeEquals(Bytes(code), Bytes(typed ?? ""));
            if (!fits)
                wrong++;
            return fits;
        }
    }

    /// <summary>Ends it.</summary>
    public void End()
    {
        lock (gate)
            code = null;
    }

    private static byte[] Bytes(string text) => SHA256.HashData(Encoding.UTF8.GetBytes(new string([.. text.ToUpperInvariant().Where(char.IsAsciiLetterOrDigit)])));
}
