import { useSyncExternalStore } from 'react';

const paper = matchMedia('print');
let isBefore = false;

// A print tells of itself before the page is laid out for paper; a page shown as on paper does not.
const subscribe = (tell: () => void) => {
  const begin = () => {
    isBefore = true;
    tell();
  };
  const end = () => {
    isBefore = false;
    tell();
  };
  addEventListener('beforeprint', begin);
  addEventListener('afterprint', end);
  paper.addEventListener('change', tell);
  return () => {
    removeEventListener('beforeprint', begin);
    removeEventListener('afterprint', end);
    paper.removeEventListener('change', tell);
  };
};

/** Whether the page is laid out for paper: on paper nothing scrolls. */
export const usePrinting = (): boolean => useSyncExternalStore(subscribe, () => isBefore || paper.matches);
