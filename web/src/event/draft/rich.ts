/** A part of what the editor holds: a paragraph, a list, a text with its marks. */
export interface RichNode {
  type?: string;
  text?: string;
  attrs?: Record<string, unknown>;
  marks?: { type: string; attrs?: Record<string, unknown> }[];
  content?: RichNode[];
}

const escaped = (text: string): string =>
  text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;');

const linkOf = (node: RichNode): string | null => {
  const href = node.marks?.find((m) => m.type === 'link')?.attrs?.href;
  return typeof href === 'string' && /^(https?:|mailto:|tel:)/i.test(href) ? href : null;
};

const runOf = (node: RichNode): string => {
  if (node.type === 'hardBreak') return '<br>';
  const has = (mark: string) => node.marks?.some((m) => m.type === mark);
  const href = linkOf(node);
  const italic = has('italic') ? `<em>${escaped(node.text ?? '')}</em>` : escaped(node.text ?? '');
  const bold = has('bold') ? `<strong>${italic}</strong>` : italic;
  return href ? `<a href="${escaped(href)}" target="_blank" rel="noopener nofollow">${bold}</a>` : bold;
};

const lineOf = (node: RichNode): string =>
  (node.content ?? [])
    .map(runOf)
    .join('')
    .replace(/^(?:<br>|\s)+|(?:<br>|\s)+$/g, '');

const isList = (node: RichNode): boolean => node.type === 'bulletList' || node.type === 'orderedList';

const listOf = (node: RichNode): string => {
  const name = node.type === 'orderedList' ? 'ol' : 'ul';
  const items = (node.content ?? [])
    .map((item) => {
      const parts = item.content ?? [];
      const lines = parts
        .filter((part) => !isList(part))
        .map(lineOf)
        .filter(Boolean);
      return lines.join('<br>') + parts.filter(isList).map(listOf).join('');
    })
    .filter(Boolean);
  return items.length > 0 ? `<${name}>${items.map((item) => `<li>${item}</li>`).join('')}</${name}>` : '';
};

/** What the editor holds in the form the server keeps, so that what is not changed stays the same text. */
export const htmlOf = (doc: RichNode): string =>
  (doc.content ?? [])
    .map((block) => {
      if (isList(block)) return listOf(block);
      const line = lineOf(block);
      return line && `<p>${line}</p>`;
    })
    .join('');

/** What a formatted text says, in one line. */
export const plainText = (html: string): string =>
  html
    .replace(/<br>|<\/(p|li)>/g, ' ')
    .replace(/<[^>]*>/g, '')
    .replace(/&(lt|gt|quot|#39|amp);/g, (_, name: string) => PLAIN[name] ?? '')
    .trim();

const PLAIN: Record<string, string> = { lt: '<', gt: '>', quot: '"', '#39': "'", amp: '&' };
