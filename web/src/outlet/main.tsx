import { createRoot } from 'react-dom/client';
import { Outlet } from './Outlet';
import type { OutletStart } from './model';
import { Share } from './Share';
import './outlet.scss';

const place = document.getElementById('outlet');
const data = document.getElementById('outlet-data')?.textContent;
if (place && data) {
  // The list that was readable without scripts gives way to the views.
  place.replaceChildren();
  createRoot(place).render(<Outlet start={JSON.parse(data) as OutletStart} isPage={place.dataset.shape === 'page'} />);
}

const share = document.getElementById('share');
if (share) createRoot(share).render(<Share texts={share.dataset} />);

// A frame tells the site around it how high it is; only that, and to anybody who listens.
if (parent !== window) {
  const tell = () => parent.postMessage({ valtro: 'height', height: document.body.scrollHeight }, '*');
  new ResizeObserver(tell).observe(document.body);
  addEventListener('message', (e) => {
    if ((e.data as { valtro?: string } | null)?.valtro === 'tell') tell();
  });
}
