import { createRoot } from 'react-dom/client';
import { Outlet } from './Outlet';
import { zoneCity } from '../shared/dates';
import { onReadersClock, textsOf, wordsFor, type Look, type OutletEvent, type OutletStart } from './model';
import { Share } from './Share';
import '@fontsource-variable/noto-sans/wght.css';
import '@fontsource-variable/noto-sans-arabic/wght.css';
import './outlet.scss';

const place = document.getElementById('outlet');
const data = document.getElementById('outlet-data')?.textContent;
if (place && data) {
  const start = JSON.parse(data) as OutletStart;
  void textsOf(start.language).then((texts) => {
    // The list that was readable without scripts gives way to the views.
    place.replaceChildren();
    createRoot(place).render(<Outlet start={start} texts={texts} isPage={place.dataset.shape === 'page'} />);
  });
}

const share = document.getElementById('share');
if (share) createRoot(share).render(<Share texts={share.dataset} />);

// A date's page tells its time on the reader's own clock where the lists do.
const when = document.querySelector<HTMLElement>('.outlet-date [data-when]:not([data-when=""])');
if (when)
  void textsOf(document.documentElement.lang).then((texts) => {
    const event = onReadersClock(JSON.parse(when.dataset.when ?? '') as OutletEvent);
    const words = wordsFor(texts, (when.dataset.hours ?? 'language') as Look['hours']);
    when.textContent = words.span(event);
    const zone = document.getElementById('zone');
    if (zone)
      zone.textContent = words.fill(texts.timesIn, {
        value: zoneCity(Intl.DateTimeFormat().resolvedOptions().timeZone),
      });
  });

// Another language is read at the same place.
for (const link of document.querySelectorAll<HTMLAnchorElement>('.languages a'))
  link.addEventListener('click', () => {
    const [there, here] = [new URL(link.href), new URLSearchParams(location.search)];
    for (const [name, value] of here) if (name !== 'lang') there.searchParams.set(name, value);
    link.href = there.href;
  });

// A frame tells the site around it how high it is; only that, and to anybody who listens.
if (parent !== window) {
  const tell = () => {
    const height = document.body.scrollHeight;
    parent.postMessage({ valtro: 'height', height }, '*');
    // Learning platforms take it in this form, without any script of ours.
    parent.postMessage({ subject: 'lti.frameResize', height: height + 4 }, '*');
  };
  new ResizeObserver(tell).observe(document.body);
  addEventListener('message', (e) => {
    if ((e.data as { valtro?: string } | null)?.valtro === 'tell') tell();
  });
}
