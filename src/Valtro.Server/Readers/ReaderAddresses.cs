using System.Security.Cryptography;
using System.Text;
using Microsoft.AspNetCore.DataProtection;
using Valtro.Store;

namespace Valtro.Server.Readers;

/// <summary>Visitors' addresses: encrypted where they are kept, known again by a hash, shown to nobody. And the links by which they end it.</summary>
internal sealed class ReaderAddresses(MailReaders readers, IDataProtectionProvider protection, ServerSettings settings)
{
    /// <summary>An address as it is kept.</summary>
    public byte[] Sealed(Guid schoolId, string address) => Of(schoolId).Protect(Encoding.UTF8.GetBytes(address));

    /// <summary>What tells that an address is there already.</summary>
    public async Task<byte[]> HashAsync(Guid schoolId, string address)
    {
        var (_, kept) = await readers.SettingsAsync(schoolId);
        kept ??= await readers.KeepKeyAsync(schoolId, protection.CreateProtector("reader key").Protect(RandomNumberGenerator.GetBytes(32)));
        return HMACSHA256.HashData(protection.CreateProtector("reader key").Unprotect(kept), Encoding.UTF8.GetBytes(address.ToLowerInvariant()));
    }

    /// <summary>Where a reader is written to; null when they ended it, or it cannot be read any more.</summary>
    public async Task<string?> AddressOfAsync(Guid readerId)
    {
        if (await readers.FindAsync(readerId) is not { } reader)
            return null;
        try
        {
            return Encoding.UTF8.GetString(Of(reader.SchoolId).Unprotect(reader.Address));
        }
        catch (CryptographicException)
        {
            return null;
        }
    }

    /// <summary>Forgets a reader.</summary>
    public async Task ForgetAsync(Guid readerId)
    {
        if (await readers.FindAsync(readerId) is { } reader)
            await readers.EndAsync(reader);
    }

    /// <summary>Where a reader ends it.</summary>
    public string EndOf(Guid readerId, string language) => $"{settings.Address}/follow/end/{Convert.ToHexStringLower(Ends.Protect(readerId.ToByteArray()))}?lang={language}";

    /// <summary>The reader a link to end is of; null for none.</summary>
    public Guid? ReaderOf(string token)
    {
        try
        {
            return new Guid(Ends.Unprotect(Convert.FromHexString(token)));
        }
        catch (Exception error) when (error is CryptographicException or FormatException or ArgumentException)
        {
            return null;
        }
    }

    private IDataProtector Ends => protection.CreateProtector("reader end");

    private IDataProtector Of(Guid schoolId) => protection.CreateProtector("reader address", schoolId.ToString());
}
