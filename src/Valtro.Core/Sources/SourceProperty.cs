using System.Globalization;
using System.Text;

namespace Valtro.Core.Sources;

/// <summary>A property of a file (RFC 5545, 3.1): a name, parameters, and a value as it was written.</summary>
internal sealed record SourceProperty(string Name, IReadOnlyDictionary<string, string> Parameters, string Value)
{
    /// <summary>A parameter; null without it.</summary>
    public string? Parameter(string name) => Parameters.GetValueOrDefault(name);

    /// <summary>Reads a line; null when it is none.</summary>
    public static SourceProperty? Read(string line)
    {
        var (parameters, at) = (new Dictionary<string, string>(StringComparer.OrdinalIgnoreCase), line.AsSpan().IndexOfAny(':', ';'));
        if (at <= 0)
            return null;
        var name = line[..at].Trim();
        // A group before the name says nothing here.
        name = name[(name.LastIndexOf('.') + 1)..].ToUpperInvariant();
        while (at < line.Length && line[at] == ';')
        {
            var begin = ++at;
            while (at < line.Length && line[at] is not ('=' or ';' or ':'))
                at++;
            var parameter = line[begin..at].Trim();
            var value = new StringBuilder();
            if (at < line.Length && line[at] == '=')
            {
                at++;
                for (var isQuoted = false; at < line.Length && (isQuoted || line[at] is not (';' or ':')); at++)
                {
                    if (line[at] == '"')
                        isQuoted = !isQuoted;
                    else
                        value.Append(line[at]);
                }
            }
            if (parameter.Length > 0)
                parameters.TryAdd(parameter, Uncircumflexed(value.ToString()));
        }
        return at < line.Length ? new SourceProperty(name, parameters, line[(at + 1)..]) : null;
    }

    /// <summary>The value as text (RFC 5545, 3.3.11); what should have been escaped is taken as it stands.</summary>
    public string Text
    {
        get
        {
            var value = string.Equals(Parameter("ENCODING"), "QUOTED-PRINTABLE", StringComparison.OrdinalIgnoreCase) ? Printable(Value) : Value;
            return Unescaped(value).Trim();
        }
    }

    /// <summary>A list of texts, parted by commas that are not escaped.</summary>
    public IEnumerable<string> Texts
    {
        get
        {
            var begin = 0;
            for (var i = 0; i <= Value.Length; i++)
            {
                if (i < Value.Length && Value[i] == '\\')
                    i++;
                else if (i == Value.Length || Value[i] == ',')
                {
                    if (Unescaped(Value[begin..i]).Trim() is { Length: > 0 } text)
                        yield return text;
                    begin = i + 1;
                }
            }
        }
    }

    private static string Unescaped(string value)
    {
        if (!value.Contains('\\', StringComparison.Ordinal))
            return value;
        var text = new StringBuilder(value.Length);
        for (var i = 0; i < value.Length; i++)
        {
            if (value[i] != '\\' || i + 1 == value.Length)
                text.Append(value[i]);
            else
                text.Append(value[++i] is 'n' or 'N' ? '\n' : value[i]);
        }
        return text.ToString();
    }

    // RFC 6868.
    private static string Uncircumflexed(string value) =>
        value.Contains('^', StringComparison.Ordinal) ? value.Replace("^n", "\n", StringComparison.Ordinal).Replace("^'", "\"", StringComparison.Ordinal).Replace("^^", "^", StringComparison.Ordinal) : value;

    // As files of before RFC 2445 have it.
    private static string Printable(string value)
    {
        var bytes = new List<byte>(value.Length);
        for (var i = 0; i < value.Length; i++)
        {
            if (value[i] == '=' && i + 2 < value.Length && byte.TryParse(value.AsSpan(i + 1, 2), NumberStyles.AllowHexSpecifier, CultureInfo.InvariantCulture, out var b))
            {
                bytes.Add(b);
                i += 2;
            }
            else
            {
                bytes.AddRange(Encoding.UTF8.GetBytes(value, i, 1));
            }
        }
        return Encoding.UTF8.GetString([.. bytes]);
    }
}

/// <summary>A component with its properties and what stands in it. Kept as it was found: what is not closed ends with what it stands in.</summary>
internal sealed class SourceComponent(string name)
{
    private const int MaxDepth = 20;

    public string Name { get; } = name;

    public List<SourceProperty> Properties { get; } = [];

    public List<SourceComponent> Components { get; } = [];

    public SourceProperty? Property(string name) => Properties.Find(p => p.Name == name);

    public IEnumerable<SourceProperty> All(string name) => Properties.Where(p => p.Name == name);

    /// <summary>The components of lines, under one without a name.</summary>
    /// <param name="lines">The lines.</param>
    /// <param name="most">How many components at most.</param>
    /// <param name="unread">How many lines are no properties.</param>
    /// <exception cref="InvalidInputException"><c>too_many_components</c>, <c>nested_too_deep</c>.</exception>
    public static SourceComponent Read(IEnumerable<string> lines, int most, out int unread)
    {
        var (root, count) = (new SourceComponent(""), 0);
        var open = new Stack<SourceComponent>([root]);
        unread = 0;
        foreach (var line in lines)
        {
            if (SourceProperty.Read(line) is not { } property)
            {
                unread++;
            }
            else if (property.Name == "BEGIN")
            {
                if (++count > most)
                    throw new InvalidInputException("too_many_components", "", $"A file holds {most} events at most.");
                if (open.Count > MaxDepth)
                    throw new InvalidInputException("nested_too_deep", "", $"Things stand in each other more than {MaxDepth} deep in this file.");
                var component = new SourceComponent(property.Value.Trim().ToUpperInvariant());
                open.Peek().Components.Add(component);
                open.Push(component);
            }
            else if (property.Name == "END")
            {
                var ended = property.Value.Trim().ToUpperInvariant();
                // What was not closed ends with what is; an end without a beginning ends nothing.
                if (open.Any(c => c.Name == ended && c.Name.Length > 0))
                {
                    while (open.Pop().Name != ended)
                    {
                    }
                }
            }
            else
            {
                open.Peek().Properties.Add(property);
            }
        }
        return root;
    }
}
