import type { Links, OutletView } from '../shared/api/client';

/** The ways an embed can stand in a site. */
export const FORMS = ['fitted', 'fixed', 'script'] as const;
export type Form = (typeof FORMS)[number];

export interface Placed {
  form: Form;
  /** Null for the publication's own. */
  view: OutletView | null;
  /** How many events a short list shows; null for the publication's own. */
  count: number | null;
  width: string;
  height: string;
}

export const PLACED: Placed = { form: 'fitted', view: null, count: null, width: '100%', height: '640' };

const html = (text: string) => text.replaceAll('&', '&amp;').replaceAll('"', '&quot;').replaceAll('<', '&lt;');

/** A width or height as a style takes it: pixels unless it says per cent; null when it is no measure. */
export const measure = (text: string): string | null => {
  const match = /^\s*(\d{1,4})\s*(px|%)?\s*$/.exec(text);
  if (!match || Number(match[1]) === 0 || (match[2] === '%' && Number(match[1]) > 100)) return null;
  return `${match[1]}${match[2] ?? 'px'}`;
};

/** What is asked of the embed's address. */
export const queryOf = ({ view, count }: Pick<Placed, 'view' | 'count'>): string => {
  const query = new URLSearchParams();
  if (view) query.set('view', view);
  if (count) query.set('count', String(count));
  const text = query.toString();
  return text ? `?${text}` : '';
};

/** The code a site takes. */
export const codeOf = (links: Links, title: string, placed: Placed): string => {
  const address = html(links.embed + queryOf(placed));
  const name = html(title);
  const height = measure(placed.height) ?? '640px';
  switch (placed.form) {
    case 'fitted':
      return (
        `<iframe src="${address}" title="${name}" style="width:100%;height:${height};border:0;display:block" allow="clipboard-write" loading="lazy"></iframe>\n` +
        `<script src="${html(links.script)}" async></script>`
      );
    case 'fixed':
      return `<iframe src="${address}" title="${name}" style="width:${measure(placed.width) ?? '100%'};max-width:100%;height:${height};border:0;display:block" allow="clipboard-write" loading="lazy"></iframe>`;
    case 'script':
      return `<div data-valtro="${address}" data-title="${name}"></div>\n<script src="${html(links.script)}" async></script>`;
  }
};
