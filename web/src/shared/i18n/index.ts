import i18next from 'i18next';
import { initReactI18next, useTranslation } from 'react-i18next';
import rooms from '../../../rooms.json';
import { ApiProblem } from '../api/client';

export const LANGUAGES = { en: 'English', fr: 'Français' } as const;
export type Language = keyof typeof LANGUAGES;
export type Room = keyof typeof rooms;

type Tree = { [key: string]: string | Tree };

const KEY = 'valtro.language';
const files = import.meta.glob<Tree>(['/src/*/texts/*.json', '!/src/outlet/**'], { import: 'default' });
/** The rooms whose texts are wanted, in whatever language is spoken. */
const wanted = new Set<Room>();
const there = new Set<string>();

const firstLanguage = (): Language => {
  const kept = localStorage.getItem(KEY);
  if (kept && kept in LANGUAGES) return kept as Language;
  return navigator.language.startsWith('fr') ? 'fr' : 'en';
};

const fetchTexts = async (room: Room, language: string) => {
  const path = `/src/${room}/texts/${language}.json`;
  if (there.has(path)) return;
  const load = files[path];
  if (!load) throw new Error(`There is no ${path}.`);
  i18next.addResourceBundle(language, 'translation', await load(), true);
  there.add(path);
};

/** Brings the texts of a room, and of those it takes from, in the language that is spoken. */
export const loadTexts = async (room: Room) => {
  for (const name of [room, ...(rooms[room] as Room[])]) wanted.add(name);
  await Promise.all([...wanted].map((name) => fetchTexts(name, i18next.language)));
};

export const startTexts = async () => {
  const language = firstLanguage();
  document.documentElement.lang = language;
  await i18next.use(initReactI18next).init({
    lng: language,
    fallbackLng: false,
    resources: {},
    interpolation: { escapeValue: false },
  });
  await loadTexts('shared');
};

export const setLanguage = async (language: Language) => {
  localStorage.setItem(KEY, language);
  if (language === i18next.language) return;
  await Promise.all([...wanted].map((room) => fetchTexts(room, language)));
  document.documentElement.lang = language;
  await i18next.changeLanguage(language);
};

/** The texts and the language they are in. */
export const useTexts = () => {
  const { t, i18n } = useTranslation();
  return { t, language: i18n.language as Language };
};

type Translate = ReturnType<typeof useTexts>['t'];

/** What can go wrong has many words, which are wanted when something does. */
export const loadProblems = () => loadTexts('problems').catch(() => undefined);

/** What a problem says in the person's language; the server's own sentence when we have none. */
export const problemText = (t: Translate, problem: ApiProblem): string =>
  t(`problem.${problem.code}`, { defaultValue: problem.message, seconds: problem.retryAfter ?? 0 });
