namespace Valtro.Core;

/// <summary>
/// Input that a person or a program gave and that cannot be accepted as it is. It carries what an answer needs:
/// a stable code, the field it is about and a sentence for a person.
/// </summary>
public sealed class InvalidInputException : Exception
{
    /// <summary>Makes the exception.</summary>
    /// <param name="code">Stable, lower case with underscores; part of the public interface.</param>
    /// <param name="field">The field in the caller's terms, or null when it concerns the whole.</param>
    /// <param name="message">One sentence saying what is wrong and what to do.</param>
    public InvalidInputException(string code, string? field, string message)
        : base(message)
    {
        Code = code;
        Field = field;
    }

    /// <summary>The stable code.</summary>
    public string Code { get; }

    /// <summary>The field the problem is about, or null.</summary>
    public string? Field { get; }
}
