import { describe, expect, it } from 'vitest';
import { htmlOf, plainText, type RichNode } from '../src/event/draft/rich';

const text = (said: string, ...marks: string[]): RichNode => ({
  type: 'text',
  text: said,
  marks: marks.map((type) => (type.startsWith('http') ? { type: 'link', attrs: { href: type } } : { type })),
});
const p = (...content: RichNode[]): RichNode => ({ type: 'paragraph', content });
const list = (type: string, ...items: RichNode[][]): RichNode => ({
  type,
  content: items.map((content) => ({ type: 'listItem', content })),
});
const doc = (...content: RichNode[]) => htmlOf({ type: 'doc', content });

describe('what the editor holds', () => {
  it('is written in the form the server keeps', () => {
    expect(doc(p(text('Bring '), text('rope', 'bold'), text(' & "tar"', 'bold', 'italic')))).toBe(
      '<p>Bring <strong>rope</strong><strong><em> &amp; &quot;tar&quot;</em></strong></p>',
    );
    expect(doc(p(text('the plan', 'https://a.example/?a=1&b=2', 'bold')))).toBe(
      '<p><a href="https://a.example/?a=1&amp;b=2" target="_blank" rel="noopener nofollow"><strong>the plan</strong></a></p>',
    );
    expect(doc(p(text('One'), { type: 'hardBreak' }, text('Two')), p(), p({ type: 'hardBreak' }))).toBe(
      '<p>One<br>Two</p>',
    );
  });

  it('keeps lists, in each other too, and none that are empty', () => {
    expect(
      doc(list('bulletList', [p(text('Rope')), list('orderedList', [p(text('long'))])], [p(text('Tar'))], [p()])),
    ).toBe('<ul><li>Rope<ol><li>long</li></ol></li><li>Tar</li></ul>');
    expect(doc(list('bulletList', [p()]))).toBe('');
    expect(htmlOf({})).toBe('');
  });

  it('has no links that run anything', () => {
    const run: RichNode = {
      type: 'text',
      text: 'x',
      marks: [{ type: 'link', attrs: { href: 'javascript:alert(1)' } }],
    };
    expect(doc(p(run))).toBe('<p>x</p>');
  });

  it('is told as plain text in one line', () => {
    expect(
      plainText('<p>Bring <strong>rope</strong> &amp; &lt;tar&gt;</p><ul><li>One</li><li>Two<br>Three</li></ul>'),
    ).toBe('Bring rope & <tar> One Two Three');
    // An entity is read once.
    expect(plainText('&amp;lt;p&amp;gt;')).toBe('&lt;p&gt;');
  });
});
