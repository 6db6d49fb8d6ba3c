using System.Buffers.Text;
using System.Security.Cryptography;
using System.Text;

namespace Valtro.Store;

/// <summary>Secrets that open something: who has one holds it, the database its hash only.</summary>
public static class Secrets
{
    /// <summary>A new secret and what the database keeps of it.</summary>
    public static (string Secret, byte[] Hash) New()
    {
        var secret = Base64Url.EncodeToString(RandomNumberGenerator.GetBytes(32));
        return (secret, HashOf(secret));
    }

    public static byte[] HashOf(string secret) => SHA256.HashData(Encoding.UTF8.GetBytes(secret));
}
