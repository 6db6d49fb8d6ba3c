/** What a formatted text says, in one line. */
export const plainText = (html: string): string => {
  const page = new DOMParser().parseFromString(html, 'text/html');
  for (const end of page.querySelectorAll('p, li')) end.append(' ');
  for (const end of page.querySelectorAll('br')) end.replaceWith(' ');
  return page.body.innerText.replace(/\s+/g, ' ').trim();
};

/** What a part of an event says, in one line; what has a name by that. */
export const valueText = (value: unknown, nameOf: (id: string) => string | undefined): string => {
  const text = (one: unknown): string => {
    if (one === null || one === undefined || one === '') return '';
    if (typeof one === 'string') return nameOf(one) ?? one;
    if (typeof one === 'number' || typeof one === 'boolean') return one.toString();
    if (Array.isArray(one)) return one.map(text).filter(Boolean).join(', ');
    if (typeof one !== 'object') return '';
    for (const name of ['name', 'address', 'alt']) if (name in one) return text((one as Record<string, unknown>)[name]);
    return '…';
  };
  return text(value);
};
