import i18next from 'i18next';
import { initReactI18next, useTranslation } from 'react-i18next';
import { ApiProblem } from '../api/client';
import en from './en.json';
import fr from './fr.json';

export const LANGUAGES = { en: 'English', fr: 'Français' } as const;
export type Language = keyof typeof LANGUAGES;

const KEY = 'valtro.language';

const firstLanguage = (): Language => {
  const kept = localStorage.getItem(KEY);
  if (kept && kept in LANGUAGES) return kept as Language;
  return navigator.language.startsWith('fr') ? 'fr' : 'en';
};

export const startTexts = () => {
  document.documentElement.lang = firstLanguage();
  return i18next.use(initReactI18next).init({
    lng: firstLanguage(),
    fallbackLng: 'en',
    resources: { en: { translation: en }, fr: { translation: fr } },
    interpolation: { escapeValue: false },
  });
};

export const setLanguage = (language: Language) => {
  localStorage.setItem(KEY, language);
  document.documentElement.lang = language;
  void i18next.changeLanguage(language);
};

/** The texts and the language they are in. */
export const useTexts = () => {
  const { t, i18n } = useTranslation();
  return { t, language: (i18n.resolvedLanguage ?? 'en') as Language };
};

type Translate = ReturnType<typeof useTexts>['t'];

/** What a problem says in the person's language; the server's own sentence when we have none. */
export const problemText = (t: Translate, problem: ApiProblem): string =>
  t(`problem.${problem.code}`, { defaultValue: problem.message, seconds: problem.retryAfter ?? 0 });
