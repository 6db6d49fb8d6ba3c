using System.Text;

namespace Valtro.Core.Publishing;

/// <summary>A piece of a style sheet as it was typed: a rule with a block, or a statement without one.</summary>
/// <param name="Prelude">What stands before the block, or the whole statement.</param>
/// <param name="Block">What stands in the block; null without one.</param>
internal sealed record CssPiece(string Prelude, string? Block)
{
    public override string ToString() => Block is null ? Prelude : $"{Prelude} {{ {Block.Trim()} }}";
}

/// <summary>
/// Cuts a style sheet into its rules and a block into its declarations (CSS Syntax 3, 5.4), so that whatever a parser passes over
/// in silence can be named.
/// </summary>
internal static class CssPieces
{
    /// <summary>The rules and statements, without comments.</summary>
    public static IEnumerable<CssPiece> Rules(string css) => Split(css, isBlock: false);

    /// <summary>The declarations of a block, and rules nested in it.</summary>
    public static IEnumerable<CssPiece> Declarations(string block) => Split(block, isBlock: true);

    private static List<CssPiece> Split(string css, bool isBlock)
    {
        var (found, text, begin, depth, round) = (new List<CssPiece>(), new StringBuilder(), -1, 0, 0);
        void End(string? block)
        {
            var prelude = (begin < 0 ? text.ToString() : text.ToString(0, begin)).Trim();
            if (prelude.Length > 0 || block is not null)
                found.Add(new CssPiece(prelude, block));
            text.Clear();
            (begin, depth, round) = (-1, 0, 0);
        }

        for (var i = 0; i < css.Length; i++)
        {
            var c = css[i];
            if (c == '/' && i + 1 < css.Length && css[i + 1] == '*')
            {
                var end = css.IndexOf("*/", i + 2, StringComparison.Ordinal);
                i = end < 0 ? css.Length : end + 1;
                // A comment parts words.
                text.Append(' ');
            }
            else if (c is '"' or '\'')
            {
                var end = i + 1;
                while (end < css.Length && css[end] != c && css[end] != '\n')
                    end += css[end] == '\\' ? 2 : 1;
                text.Append(css, i, Math.Min(end + 1, css.Length) - i);
                i = end;
            }
            else if (c == '\\' && i + 1 < css.Length)
            {
                text.Append(css, i++, 2);
            }
            else if (c == '{')
            {
                if (depth++ == 0)
                    begin = text.Length;
                text.Append(c);
            }
            else if (c == '}' && depth > 0)
            {
                text.Append(c);
                if (--depth == 0)
                    End(text.ToString(begin + 1, text.Length - begin - 2));
            }
            else if (c == ';' && depth == 0 && round == 0)
            {
                End(null);
            }
            else
            {
                // Brackets of the whole: a semicolon within them ends nothing.
                if (depth == 0)
                    round = Math.Max(0, round + (c is '(' or '[' ? 1 : c is ')' or ']' ? -1 : 0));
                text.Append(c);
            }
        }
        if (depth > 0)
            // What is not closed is closed by the end (CSS Syntax 3, 5.4.8).
            End(text.ToString(begin + 1, text.Length - begin - 1));
        else if (isBlock || text.ToString().Trim().Length > 0)
            End(null);
        return found;
    }
}
