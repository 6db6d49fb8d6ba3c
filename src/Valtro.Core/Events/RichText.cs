using System.Globalization;
using System.Net;
using System.Text;
using System.Text.RegularExpressions;
using AngleSharp.Dom;
using AngleSharp.Html.Parser;

namespace Valtro.Core.Events;

/// <summary>
/// Text with bold, italic, lists and links, as a small part of HTML: paragraphs (<c>p</c>) and lists (<c>ul</c>,
/// <c>ol</c>, <c>li</c>), in them <c>strong</c>, <c>em</c>, <c>br</c> and <c>a</c>. Whatever comes in is read as browsers
/// read it (WHATWG HTML) and written anew, so nothing goes through that is not in this list; cleaning what is clean
/// changes nothing.
/// </summary>
public static partial class RichText
{
    /// <summary>The longest input, in characters.</summary>
    public const int MaxInput = 100_000;

    private const int MaxTags = 4_000;
    private const int MaxListDepth = 3;
    private const int MaxNesting = 200;

    // Their contents are no text for people.
    private static readonly HashSet<string> Dropped = new(StringComparer.OrdinalIgnoreCase)
    {
        "script", "style", "template", "iframe", "object", "embed", "svg", "math", "noscript", "head", "title", "textarea", "select", "button",
        "xmp", "noembed", "noframes", "plaintext", "audio", "video", "canvas", "applet",
    };

    private static readonly HashSet<string> Blocks = new(StringComparer.OrdinalIgnoreCase)
    {
        "p", "div", "h1", "h2", "h3", "h4", "h5", "h6", "blockquote", "pre", "section", "article", "header", "footer", "aside", "main", "address",
        "table", "thead", "tbody", "tfoot", "tr", "dl", "dt", "dd", "form", "fieldset", "figure", "figcaption", "hr", "details", "summary", "center", "li", "ul", "ol",
    };

    /// <summary>The text in its clean form; empty when there is nothing to read in it.</summary>
    /// <param name="text">HTML; a text without any tag is taken as plain, its lines kept.</param>
    /// <param name="field">The field it is of, for the error.</param>
    /// <param name="max">The most characters people read.</param>
    /// <exception cref="InvalidInputException"><c>text_too_long</c>.</exception>
    public static string Clean(string? text, string field, int max)
    {
        if (string.IsNullOrWhiteSpace(text))
            return "";
        if (text.Length > MaxInput)
            throw new InvalidInputException("text_too_long", field, $"The text has {text.Length} characters with its markup; {MaxInput} fit.");
        // Reading marks nested without end takes the square of their number.
        if (text.AsSpan().Count('<') > MaxTags)
            throw new InvalidInputException("text_too_long", field, $"The text has more than {MaxTags} marks. Paste it as plain text.");
        var clean = Tag().IsMatch(text) ? Write(Reader.Read(new HtmlParser().ParseDocument(text).Body!, default, 0, 0)) : OfPlain(text);
        var length = Plain(clean).Length;
        return length <= max ? clean : throw new InvalidInputException("text_too_long", field, $"The text has {length} characters; {max} fit.");
    }

    /// <summary>A plain text as rich text: its blank lines part paragraphs, its web addresses are links.</summary>
    public static string OfPlain(string text)
    {
        var blocks = new List<Block>();
        foreach (var paragraph in BlankLines().Split(text.ReplaceLineEndings("\n")))
        {
            var lines = Reader.Tidied(paragraph.Split('\n').Select(l => new List<Run> { new(l, false, false, null) }));
            if (lines.Count > 0)
                blocks.Add(new Paragraph(lines));
        }
        return Write(blocks);
    }

    /// <summary>Whether a clean text has marks that its plain twin cannot show.</summary>
    /// <param name="clean">A clean text.</param>
    public static bool HasMarks(string clean) => Marked().IsMatch(clean);

    /// <summary>What is stored, in its clean form: texts of before there was rich text are plain.</summary>
    public static string Stored(string text) =>
        text.Length == 0 || text.StartsWith("<p>", StringComparison.Ordinal) || text.StartsWith("<ul>", StringComparison.Ordinal) || text.StartsWith("<ol>", StringComparison.Ordinal)
            ? text
            : OfPlain(text);

    /// <summary>The plain twin of a clean text, for readers that show no markup: lists with signs, links with their address.</summary>
    /// <param name="clean">A clean text.</param>
    public static string Plain(string clean)
    {
        // Most texts are one paragraph of plain words.
        if (clean.StartsWith("<p>", StringComparison.Ordinal) && clean.EndsWith("</p>", StringComparison.Ordinal) && clean.AsSpan(3, clean.Length - 7).IndexOfAny('<', '&') < 0)
            return clean[3..^4];
        var plain = new StringBuilder(clean.Length);
        var lists = new Stack<int>();
        var (href, linkFrom) = ("", 0);
        for (var i = 0; i < clean.Length;)
        {
            if (clean[i] != '<')
            {
                var next = clean.IndexOf('<', i);
                next = next < 0 ? clean.Length : next;
                plain.Append(WebUtility.HtmlDecode(clean[i..next]));
                i = next;
                continue;
            }
            var end = clean.IndexOf('>', i);
            var tag = clean[(i + 1)..(end < 0 ? clean.Length : end)];
            i = end < 0 ? clean.Length : end + 1;
            switch (tag.Split(' ')[0])
            {
                case "p" when plain.Length > 0:
                case "ul" or "ol" when plain.Length > 0 && lists.Count == 0:
                    plain.Append("\n\n");
                    break;
                case "br":
                    plain.Append('\n');
                    break;
            }
            switch (tag.Split(' ')[0])
            {
                case "ul":
                    lists.Push(0);
                    break;
                case "ol":
                    lists.Push(1);
                    break;
                case "/ul" or "/ol":
                    lists.TryPop(out _);
                    break;
                case "li":
                    if (plain.Length > 0 && plain[^1] != '\n')
                        plain.Append('\n');
                    plain.Append(' ', 2 * Math.Max(0, lists.Count - 1));
                    if (lists.TryPop(out var number))
                    {
                        plain.Append(number == 0 ? "– " : number.ToString(CultureInfo.InvariantCulture) + ". ");
                        lists.Push(number == 0 ? 0 : number + 1);
                    }
                    break;
                case "a":
                    (href, linkFrom) = (WebUtility.HtmlDecode(Href().Match(tag).Groups[1].Value), plain.Length);
                    break;
                case "/a":
                    var said = plain.ToString(linkFrom, plain.Length - linkFrom);
                    var address = href.StartsWith("mailto:", StringComparison.Ordinal) || href.StartsWith("tel:", StringComparison.Ordinal) ? href[(href.IndexOf(':') + 1)..] : href;
                    if (said != address && said + "/" != address)
                        plain.Append(" (").Append(address).Append(')');
                    break;
            }
        }
        return plain.ToString();
    }

    /// <summary>A run without a link, parted where there are web addresses in it.</summary>
    private static IEnumerable<Run> Linked(Run run)
    {
        var at = 0;
        foreach (Match match in Address().Matches(run.Text))
        {
            if (CleanHref(match.Value) is not { } href)
                continue;
            if (match.Index > at)
                yield return run with { Text = run.Text[at..match.Index] };
            yield return run with { Text = match.Value, Href = href };
            at = match.Index + match.Length;
        }
        if (at < run.Text.Length)
            yield return run with { Text = run.Text[at..] };
    }

    private static string Opening(string href) => $"<a href=\"{Escaped(href)}\" target=\"_blank\" rel=\"noopener nofollow\">";

    private static string Escaped(string text)
    {
        var escaped = new StringBuilder(text.Length);
        foreach (var c in text)
        {
            _ = c switch
            {
                '&' => escaped.Append("&amp;"),
                '<' => escaped.Append("&lt;"),
                '>' => escaped.Append("&gt;"),
                '"' => escaped.Append("&quot;"),
                _ => escaped.Append(c),
            };
        }
        return escaped.ToString();
    }

    private static string? CleanHref(string? href) =>
        href is not null && href.Length <= EventFacts.MaxAddress && Uri.TryCreate(href.Trim(), UriKind.Absolute, out var uri)
            && uri.Scheme is "http" or "https" or "mailto" or "tel" && uri.UserInfo.Length == 0 | uri.Scheme == "mailto"
            ? uri.AbsoluteUri
            : null;

    [GeneratedRegex("<[a-zA-Z/!?]")]
    private static partial Regex Tag();

    [GeneratedRegex(@"\n[ \t]*\n\s*")]
    private static partial Regex BlankLines();

    [GeneratedRegex("""https?://[^\s<>"]+[^\s<>".,;:!?')\]]""")]
    private static partial Regex Address();

    [GeneratedRegex("href=\"([^\"]*)\"")]
    private static partial Regex Href();

    [GeneratedRegex("<(strong|em|a |ul|ol)")]
    private static partial Regex Marked();

    // What is written as a space counts as one, or a second cleaning would find two.
    [GeneratedRegex(@"[\s\p{Cc}]+")]
    private static partial Regex Spaces();

    /// <summary>A stretch of text with its marks.</summary>
    private sealed record Run(string Text, bool IsStrong, bool IsEmphasis, string? Href);

    /// <summary>A paragraph, or one item's text: lines of runs.</summary>
    private abstract record Block;

    private sealed record Paragraph(List<List<Run>> Lines) : Block;

    private sealed record ListBlock(bool IsOrdered, List<Item> Items) : Block;

    private sealed record Item(List<List<Run>> Lines, ListBlock? Inner);

    /// <summary>Reads a document into what can be said of it.</summary>
    private sealed class Reader
    {
        private readonly List<Block> blocks = [];
        private List<List<Run>> lines = [[]];

        public static List<Block> Read(INode node, Marks marks, int listDepth, int depth)
        {
            var reader = new Reader();
            reader.Inside(node, marks, listDepth, depth);
            reader.EndParagraph();
            return reader.blocks;
        }

        private void Inside(INode node, Marks marks, int listDepth, int depth)
        {
            // Nobody means markup that deep, and every level costs stack.
            if (depth > MaxNesting)
                return;
            foreach (var child in node.ChildNodes)
            {
                if (child is IText text)
                    lines[^1].Add(new Run(text.Data, marks.IsStrong, marks.IsEmphasis, marks.Href));
                else if (child is IElement element && !Dropped.Contains(element.LocalName))
                    Element(element, marks, listDepth, depth + 1);
            }
        }

        private void Element(IElement element, Marks marks, int listDepth, int depth)
        {
            switch (element.LocalName)
            {
                case "br":
                    lines.Add([]);
                    break;
                case "b" or "strong":
                    Inside(element, marks with { IsStrong = true }, listDepth, depth);
                    break;
                case "i" or "em":
                    Inside(element, marks with { IsEmphasis = true }, listDepth, depth);
                    break;
                case "a":
                    Inside(element, marks with { Href = CleanHref(element.GetAttribute("href")) ?? marks.Href }, listDepth, depth);
                    break;
                case "ul" or "ol" when listDepth < MaxListDepth:
                    EndParagraph();
                    if (List(element, marks, listDepth, depth) is { Items.Count: > 0 } list)
                        blocks.Add(list);
                    break;
                case "td" or "th":
                    Inside(element, marks, listDepth, depth);
                    lines[^1].Add(new Run(" ", false, false, null));
                    break;
                default:
                    if (Blocks.Contains(element.LocalName))
                    {
                        EndParagraph();
                        Inside(element, marks, listDepth, depth);
                        EndParagraph();
                    }
                    else
                    {
                        Inside(element, marks, listDepth, depth);
                    }
                    break;
            }
        }

        private static ListBlock List(IElement element, Marks marks, int listDepth, int depth)
        {
            var items = new List<Item>();
            foreach (var child in element.Children.Where(c => !Dropped.Contains(c.LocalName)))
            {
                var isList = child.LocalName is "ul" or "ol";
                var inside = isList ? [List(child, marks, listDepth + 1, depth + 1)] : Read(child, marks, listDepth + 1, depth + 1);
                var text = inside.OfType<Paragraph>().SelectMany(p => p.Lines).ToList();
                var lists = inside.OfType<ListBlock>().Where(l => l.Items.Count > 0).ToList();
                var inner = lists.Count == 0 || listDepth + 1 >= MaxListDepth ? null : new ListBlock(lists[0].IsOrdered, [.. lists.SelectMany(l => l.Items)]);
                if (inner is null)
                    text.AddRange(lists.SelectMany(l => l.Items).SelectMany(i => i.Lines));
                if (text.Count > 0)
                    items.Add(new Item(text, inner));
                // A list straight in a list, as word processors write it, is part of the item before; without one its items are this list's.
                else if (inner is not null && items is [.., { Inner: null } last])
                    items[^1] = last with { Inner = inner };
                else if (inner is not null)
                    items.AddRange(inner.Items);
            }
            return new ListBlock(element.LocalName == "ol", items);
        }

        private void EndParagraph()
        {
            var tidy = Tidied(lines);
            if (tidy.Count > 0)
                blocks.Add(new Paragraph(tidy));
            lines = [[]];
        }

        /// <summary>The lines that say anything, tidy.</summary>
        public static List<List<Run>> Tidied(IEnumerable<List<Run>> lines) => [.. lines.Select(Tidy).Where(l => l.Count > 0)];

        /// <summary>A line with single spaces, none at its ends, its addresses as links, and one run where the marks are the same.</summary>
        private static List<Run> Tidy(List<Run> line)
        {
            var tidy = new List<Run>();
            void Add(Run run)
            {
                if (tidy is [.., var last] && last with { Text = "" } == run with { Text = "" })
                    tidy[^1] = last with { Text = last.Text + run.Text };
                else if (run.Text.Length > 0)
                    tidy.Add(run);
            }

            // Addresses are found over what belongs together, and before spaces go anywhere.
            line.ForEach(Add);
            List<Run> parted = [.. tidy.SelectMany(r => r.Href is null ? Linked(r) : [r])];
            tidy.Clear();
            var isSpaced = true;
            foreach (var run in parted)
            {
                var text = Spaces().Replace(run.Text, " ");
                if (isSpaced)
                    text = text.TrimStart(' ');
                if (text.Length == 0)
                    continue;
                isSpaced = text[^1] == ' ';
                // A space alone has no marks of its own.
                Add(text == " " ? tidy[^1] with { Text = " " } : run with { Text = text });
            }
            while (tidy is [.., var end] && end.Text.EndsWith(' '))
            {
                tidy.RemoveAt(tidy.Count - 1);
                Add(end with { Text = end.Text.TrimEnd(' ') });
            }
            return tidy;
        }
    }

    private readonly record struct Marks(bool IsStrong, bool IsEmphasis, string? Href);
}
