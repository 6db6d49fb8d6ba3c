namespace Valtro.Core.Sources;

/// <summary>Why an address could not be followed just now.</summary>
/// <param name="Code">A stable code.</param>
/// <param name="Message">A sentence for a person.</param>
public sealed record SourceProblem(string Code, string Message)
{
    /// <summary>All there are, beside those of reading a file.</summary>
    public static IReadOnlyList<SourceProblem> All { get; } =
    [
        new("source_gone", "The address says that the calendar is gone for good. What was last read is kept."),
        new("source_missing", "There is nothing at this address just now."),
        new("source_closed", "The address asks for a password. Ask whoever gave it for one that is open."),
        new("source_busy", "The address asks to be left alone for a while."),
        new("source_failed", "The address answers with an error."),
        new("source_unreachable", "The address cannot be reached."),
        new("source_slow", "The address did not answer in time."),
        new("source_inside", "The address lies inside of a network, and is not asked."),
        new("source_redirects", "The address leads on and on, or to something that is no web address."),
        new("source_too_large", "The address gives more than 20 MB, or more than 5,000 events in these days. Follow fewer days."),
        new("source_cut", "What the address gave ends in the middle. What was read before is kept."),
        new("source_empty", "The address gives no events any more. What was last read is kept until you say that this is right."),
    ];

    /// <summary>A problem as what somebody is told who asked for it.</summary>
    /// <param name="code">Its code.</param>
    public static InvalidInputException Of(string code) => new(code, "address", All.FirstOrDefault(p => p.Code == code)?.Message ?? "What the address gives cannot be read as a calendar.");
}
