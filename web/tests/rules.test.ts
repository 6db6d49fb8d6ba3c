import i18next from 'i18next';
import { beforeAll, expect, it } from 'vitest';
import type { Rule } from '../src/shared/api/client';
import en from '../src/shared/i18n/en.json';
import fr from '../src/shared/i18n/fr.json';
import { ruleText } from '../src/shared/rules';

beforeAll(() =>
  i18next.init({
    lng: 'en',
    resources: { en: { translation: en }, fr: { translation: fr } },
    interpolation: { escapeValue: false },
  }),
);

const rule = (change: Partial<Rule>): Rule => ({
  frequency: 'weekly',
  interval: 1,
  days: [],
  count: null,
  until: null,
  ...change,
});

it.each<[Partial<Rule>, string, string]>([
  [{}, 'Every Monday', 'Chaque lundi'],
  [
    { interval: 2, days: ['tuesday', 'thursday'], until: '2026-12-12' },
    'Every 2 weeks on Tuesday and Thursday, until 12 December 2026',
    'Toutes les 2 semaines, le mardi et jeudi, jusqu’au 12 décembre 2026',
  ],
  [{ frequency: 'daily', count: 5 }, 'Every day, 5 times', 'Chaque jour, 5 fois'],
  [{ interval: 3, days: ['friday'] }, 'Every 3 weeks on Friday', 'Toutes les 3 semaines, le vendredi'],
])('%j is said in both languages', async (change, english, french) => {
  for (const [language, text] of [
    ['en', english],
    ['fr', french],
  ] as const) {
    await i18next.changeLanguage(language);
    expect(ruleText(rule(change), '2026-11-23', i18next.t, language)).toBe(text);
  }
});
