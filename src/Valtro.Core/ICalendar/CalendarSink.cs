namespace Valtro.Core.ICalendar;

/// <summary>
/// Where components and their properties go as they are told, in the terms of RFC 5545 and of no one form: what writes a
/// calendar says each thing once, and lines of text (<see cref="ContentLines"/>) and JSON (<see cref="JCal"/>) are two sinks of
/// it. Values come as they are meant; how each is written, escaped and folded is the sink's.
/// </summary>
internal abstract class CalendarSink
{
    /// <summary>Begins a component, within the one that is open.</summary>
    public abstract void Begin(string component);

    /// <summary>Ends the component that is open.</summary>
    public abstract void End(string component);

    /// <summary>A property whose value is of its own default type and is no text: a moment, a number, a rule, a word of the standard.</summary>
    public void Raw(string name, string value) => Property(name, [], value);

    /// <summary>The same with one parameter.</summary>
    public void Raw(string name, string parameter, string parameterValue, string value) => Property(name, [(parameter, parameterValue)], value);

    /// <summary>A property with one parameter and several values that are no texts (RFC 5545, 3.1.1).</summary>
    public abstract void Values(string name, (string Name, string Value)? parameter, IReadOnlyList<string> values);

    /// <summary>A property with a text value.</summary>
    public void Text(string name, string value) => Text(name, [], value);

    /// <summary>A property with one parameter and a text value.</summary>
    public void Text(string name, string parameter, string parameterValue, string value) => Text(name, [(parameter, parameterValue)], value);

    /// <summary>A property with several text values.</summary>
    public abstract void Texts(string name, IReadOnlyList<string> values);

    /// <summary>Where to take part by video (RFC 7986, 5.11).</summary>
    public void Conference(string address, string label) =>
        Property("CONFERENCE", label.Length > 0 ? [("VALUE", "URI"), ("FEATURE", "VIDEO"), ("LABEL", label)] : [("VALUE", "URI"), ("FEATURE", "VIDEO")], address);

    /// <summary>A file that belongs to an event (RFC 5545, 3.8.1.1; its name and size as RFC 8607, 4, has them).</summary>
    public void Attachment(string address, string name, string mediaType, long size) =>
        Property("ATTACH", [("FMTTYPE", mediaType), ("FILENAME", name), ("SIZE", size.ToString(System.Globalization.CultureInfo.InvariantCulture))], address);

    /// <summary>An event's picture (RFC 7986, 5.10).</summary>
    public void Image(string address) => Property("IMAGE", [("VALUE", "URI"), ("DISPLAY", "BADGE"), ("FMTTYPE", "image/jpeg")], address);

    /// <summary>All that was told. Nothing can be told after it.</summary>
    public abstract byte[] Finish();

    protected abstract void Property(string name, ReadOnlySpan<(string Name, string Value)> parameters, string value);

    protected abstract void Text(string name, ReadOnlySpan<(string Name, string Value)> parameters, string value);
}
