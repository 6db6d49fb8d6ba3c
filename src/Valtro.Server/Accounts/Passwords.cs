namespace Valtro.Server.Accounts;

/// <summary>What a new password has to be: long enough, and nothing somebody would guess.</summary>
internal static class Passwords
{
    private const int Least = 10;
    private const int Most = 200;

    // What comes after it makes no password worse, and looking for patterns takes longer the longer it is.
    private const int LookedAt = 64;

    /// <summary>Checks a new password.</summary>
    /// <param name="password">The password.</param>
    /// <param name="school">The name of the school.</param>
    /// <param name="own">Who is to have it: what they are called and their address.</param>
    /// <exception cref="InvalidInputException"><c>password_short</c>, <c>password_common</c>.</exception>
    public static string Checked(string? password, string school, params IEnumerable<string> own)
    {
        if (password is not { Length: >= Least and <= Most })
            throw new InvalidInputException("password_short", "password", $"A password has at least {Least} characters. Three words make a good one.");
        string[] words = [.. own.Append(school).SelectMany(w => w.Split([' ', '@', '.', '-'], StringSplitOptions.RemoveEmptyEntries).Where(p => p.Length > 2).Append(w))];
        if (new Zxcvbn.Zxcvbn().EvaluatePassword(password[..Math.Min(password.Length, LookedAt)], words).Score < 1)
            throw new InvalidInputException("password_common", "password", "This password is one of the first that are guessed: a common one, or your name, address or school. Three words make a good one.");
        return password;
    }
}
