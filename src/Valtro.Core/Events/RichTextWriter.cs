using System.Text;

namespace Valtro.Core.Events;

/// <content>Writing the canonical form.</content>
public static partial class RichText
{
    private static string Write(List<Block> blocks)
    {
        var html = new StringBuilder();
        foreach (var block in blocks)
        {
            if (block is Paragraph p)
                html.Append("<p>").AppendJoin("<br>", p.Lines.Select(Write)).Append("</p>");
            else
                Write(html, (ListBlock)block);
        }
        return html.ToString();
    }

    private static void Write(StringBuilder html, ListBlock list)
    {
        var name = list.IsOrdered ? "ol" : "ul";
        html.Append('<').Append(name).Append('>');
        foreach (var item in list.Items)
        {
            html.Append("<li>").AppendJoin("<br>", item.Lines.Select(Write));
            if (item.Inner is not null)
                Write(html, item.Inner);
            html.Append("</li>");
        }
        html.Append("</").Append(name).Append('>');
    }

    private static string Write(List<Run> line)
    {
        var html = new StringBuilder();
        foreach (var run in line)
        {
            if (run.Href is not null)
                html.Append(Opening(run.Href));
            if (run.IsStrong)
                html.Append("<strong>");
            if (run.IsEmphasis)
                html.Append("<em>");
            html.Append(Escaped(run.Text));
            if (run.IsEmphasis)
                html.Append("</em>");
            if (run.IsStrong)
                html.Append("</strong>");
            if (run.Href is not null)
                html.Append("</a>");
        }
        return html.ToString();
    }
}
