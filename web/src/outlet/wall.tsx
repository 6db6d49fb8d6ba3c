import { createRoot } from 'react-dom/client';
import '@fontsource-variable/noto-sans/wght.css';
import '@fontsource-variable/noto-sans-arabic/wght.css';
import './wall.scss';
import { textsOf, type OutletStart } from './model';
import { Wall } from './WallScreen';

const RENEWED_MS = 60_000;

const startIn = (page: Document): OutletStart | null => {
  const data = page.getElementById('outlet-data')?.textContent;
  return data ? (JSON.parse(data) as OutletStart) : null;
};

/** What a screen shows: renewed every minute; what was last read stays when nothing can be. */
const begin = async (first: OutletStart) => {
  const place = document.getElementById('wall');
  if (!place) return;
  const texts = await textsOf(first.language);
  place.replaceChildren();
  const root = createRoot(place);
  let [start, readAt, isStale] = [first, new Date(), false];
  const draw = () =>
    root.render(<Wall start={start} texts={texts} readAt={readAt} isStale={isStale} now={new Date()} />);
  const read = async () => {
    try {
      const answer = await fetch(location.href, { cache: 'no-cache' });
      // What was taken down or closed is not shown any longer; a fault of ours changes nothing.
      if (answer.status === 410 || answer.status === 404 || answer.status === 403) {
        location.reload();
        return;
      }
      const page = new DOMParser().parseFromString(await answer.text(), 'text/html');
      const next = answer.ok ? startIn(page) : null;
      if (!next) throw new Error(String(answer.status));
      // A newer version of the script, or another theme, is read with a page of its own.
      const files = (d: Document) => [...d.querySelectorAll('script[src], style')].map((e) => e.outerHTML).join();
      if (files(page) !== files(document)) {
        location.reload();
        return;
      }
      [start, readAt, isStale] = [next, new Date(), false];
    } catch {
      isStale = true;
    }
    draw();
  };
  draw();
  setInterval(draw, 1_000);
  setInterval(() => void read(), RENEWED_MS);
  addEventListener('online', () => void read());
};

const first = startIn(document);
if (first) void begin(first);
