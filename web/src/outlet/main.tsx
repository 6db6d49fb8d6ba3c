import { createRoot } from 'react-dom/client';
import { Outlet } from './Outlet';
import type { OutletStart } from './model';
import './outlet.scss';

const place = document.getElementById('outlet');
const data = document.getElementById('outlet-data')?.textContent;
if (place && data) {
  const shape = place.dataset.shape as 'page' | 'embed' | 'upcoming';
  const count = Number(place.dataset.count);
  // The list that was readable without scripts gives way to the views.
  place.replaceChildren();
  createRoot(place).render(<Outlet start={JSON.parse(data) as OutletStart} shape={shape} count={count} />);
}
