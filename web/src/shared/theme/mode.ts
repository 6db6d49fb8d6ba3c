export const MODES = ['light', 'dark', 'auto'] as const;
export type Mode = (typeof MODES)[number];

const KEY = 'valtro.theme';
const system = matchMedia('(prefers-color-scheme: dark)');

export const currentMode = (): Mode => {
  const kept = localStorage.getItem(KEY);
  return MODES.find((mode) => mode === kept) ?? 'auto';
};

const apply = () => {
  const mode = currentMode();
  const dark = mode === 'dark' || (mode === 'auto' && system.matches);
  document.documentElement.dataset.bsTheme = dark ? 'dark' : 'light';
};

export const setMode = (mode: Mode) => {
  localStorage.setItem(KEY, mode);
  apply();
};

export const startTheme = () => {
  apply();
  system.addEventListener('change', apply);
};
