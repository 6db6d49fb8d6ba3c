import { useState } from 'react';
import Button from 'react-bootstrap/Button';
import ButtonGroup from 'react-bootstrap/ButtonGroup';
import Form from 'react-bootstrap/Form';
import { api, asProblem, type Follows, type Rule } from '../../shared/api/client';
import { addDays, weekday, type Day } from '../../shared/dates';
import { DateField } from '../../shared/parts/DateField';
import { FieldProblem } from '../../shared/parts/FieldProblem';
import { useTexts } from '../../shared/i18n';
import { WEEKDAYS, weekdayName, type Weekday } from '../../shared/rules';
import { SchoolDayChoices } from './SchoolDayChoices';
import './fields.scss';

interface Props {
  rule: Rule | null;
  follows: Follows | null;
  start: Day;
  problem: string | null;
  zone: string | null;
  onRepeat: (rule: Rule | null, follows: Follows | null) => void;
}

const SCHOOL_DAYS: Follows = { days: 'onSchoolDays', closures: 'leaveOut' };

const KINDS = ['daily', 'weekly', 'monthly', 'yearly'] as const;

const plain = (frequency: Rule['frequency'], days: Weekday[]): Rule => ({
  frequency,
  interval: 1,
  days,
  count: null,
  until: null,
});

/** The numbers the start's weekday has in its month: third, and last when it is. */
const numbersOf = (start: Day): number[] => {
  const number = Math.ceil(Number(start.slice(8)) / 7);
  return addDays(start, 7).slice(0, 7) === start.slice(0, 7) ? [number] : number < 5 ? [number, -1] : [-1];
};

const monthDayOf = (rule: Rule): string => {
  const [days, numbered] = [rule.monthDays ?? [], rule.numberedDays ?? []];
  if (days.length + numbered.length + rule.days.length === 0) return 'day';
  if (days.length === 1 && numbered.length + rule.days.length === 0) return days[0] === -1 ? 'lastDay' : 'day';
  return numbered.length === 1 && days.length + rule.days.length === 0 ? String(numbered[0]?.number) : 'own';
};

const inMonth = (choice: string, day: Weekday): Partial<Rule> => ({
  days: [],
  monthDays: choice === 'lastDay' ? [-1] : [],
  numberedDays: /^-?\d$/.test(choice) ? [{ number: Number(choice), day }] : [],
});

/** How an event repeats: the usual patterns in one click, said back as a sentence. */
export const RepeatEditor = ({ rule, follows, start, problem, zone, onRepeat }: Props) => {
  const { t, language } = useTexts();
  const own = WEEKDAYS[weekday(start) - 1] ?? 'monday';
  const days = (rule?.days ?? []) as Weekday[];
  // Every school day is a kind of its own, though its rule says every day.
  const isSchool = rule?.frequency === 'daily' && follows?.days === 'onSchoolDays';
  const kind = isSchool ? 'school' : (rule?.frequency ?? 'once');
  const onRule = (next: Rule | null) => onRepeat(next, follows);
  const end = rule?.until ? 'until' : rule?.count ? 'count' : 'never';
  const set = (change: Partial<Rule>) => rule && onRule({ ...rule, ...change });

  const toggle = (day: Weekday) => {
    const next = days.includes(day) ? days.filter((d) => d !== day) : [...days, day];
    if (next.length > 0) set({ days: WEEKDAYS.filter((d) => next.includes(d)) });
  };

  return (
    <div className="repeat">
      <ButtonGroup aria-label={t('repeat.label')} size="sm">
        <Button
          variant="outline-primary"
          active={kind === 'once'}
          aria-pressed={kind === 'once'}
          aria-label={t('repeat.once')}
          onClick={() => onRepeat(null, null)}
        >
          {t('repeat.short.once')}
        </Button>
        <Button
          variant="outline-primary"
          active={isSchool}
          aria-pressed={isSchool}
          aria-label={t('repeat.school')}
          onClick={() =>
            onRepeat(
              { ...plain('daily', []), count: rule?.count ?? null, until: rule?.until ?? null },
              { ...follows, ...SCHOOL_DAYS },
            )
          }
        >
          {t('repeat.short.school')}
        </Button>
        {KINDS.map((frequency) => (
          <Button
            key={frequency}
            variant="outline-primary"
            active={kind === frequency}
            aria-pressed={kind === frequency}
            aria-label={t(`repeat.${frequency}`)}
            onClick={() =>
              kind !== frequency &&
              onRepeat(
                {
                  ...plain(frequency, frequency === 'weekly' ? [own] : []),
                  count: rule?.count ?? null,
                  until: rule?.until ?? null,
                },
                isSchool ? null : follows,
              )
            }
          >
            {t(`repeat.short.${frequency}`)}
          </Button>
        ))}
      </ButtonGroup>
      {rule && (
        <>
          {rule.frequency === 'weekly' && (
            <div className="weekdays" role="group" aria-label={t('repeat.days')}>
              {WEEKDAYS.map((day) => (
                <button
                  key={day}
                  type="button"
                  aria-pressed={days.includes(day)}
                  aria-label={weekdayName(day, language)}
                  onClick={() => toggle(day)}
                >
                  {weekdayName(day, language, 'short').slice(0, 2)}
                </button>
              ))}
            </div>
          )}
          {rule.frequency === 'monthly' && (
            <Form.Select
              className="repeat-month"
              aria-label={t('repeat.dayOfMonth')}
              value={monthDayOf(rule)}
              onChange={(e) => set(inMonth(e.target.value, own))}
            >
              <option value="day">{t('rule.onDay', { day: Number(start.slice(8)) })}</option>
              {Number(start.slice(8)) > 27 && <option value="lastDay">{t('rule.lastDay')}</option>}
              {numbersOf(start).map((number) => (
                <option key={number} value={number}>
                  {t(`rule.nth.${number}`, { weekday: weekdayName(own, language) })}
                </option>
              ))}
              {monthDayOf(rule) === 'own' && <option value="own">{t('rule.own')}</option>}
            </Form.Select>
          )}
          {KINDS.some((k) => k === rule.frequency) && !isSchool && (
            <label className="repeat-line">
              {t(`repeat.every.${rule.frequency}`)}
              <Form.Control
                type="number"
                min={1}
                max={1000}
                value={rule.interval || ''}
                onChange={(e) => set({ interval: Number(e.target.value) })}
              />
              {t(`repeat.unit.${rule.frequency}`, { count: rule.interval })}
            </label>
          )}
          <div className="repeat-line">
            <Form.Select
              aria-label={t('repeat.ends')}
              value={end}
              onChange={(e) =>
                set({
                  until: e.target.value === 'until' ? addDays(start, 84) : null,
                  count: e.target.value === 'count' ? 10 : null,
                })
              }
            >
              <option value="never">{t('repeat.never')}</option>
              <option value="until">{t('repeat.until')}</option>
              <option value="count">{t('repeat.count')}</option>
            </Form.Select>
            {end === 'until' && rule.until && (
              <DateField label={t('repeat.lastDate')} value={rule.until} onChange={(until) => set({ until })} />
            )}
            {end === 'count' && (
              <Form.Control
                type="number"
                min={1}
                max={10000}
                aria-label={t('repeat.number')}
                value={rule.count || ''}
                onChange={(e) => set({ count: Number(e.target.value) })}
              />
            )}
          </div>
        </>
      )}
      {rule && <SchoolDayChoices follows={follows} start={start} onFollows={(next) => onRepeat(rule, next)} />}
      <FieldProblem text={problem} />
      {rule && <RuleText zone={zone} onRule={onRule} />}
    </div>
  );
};

/** A rule typed as its text: whatever the standard can say. What cannot be read stays, with what was expected. */
const RuleText = ({ zone, onRule }: { zone: string | null; onRule: (rule: Rule) => void }) => {
  const { t } = useTexts();
  const [text, setText] = useState('');
  const [problem, setProblem] = useState<string | null>(null);
  const read = async () => {
    if (!text.trim()) return;
    try {
      onRule({ ...(await api.rule(text, zone)), text: null });
      setProblem(null);
    } catch (error) {
      // The server names the part that is wrong and what was expected.
      setProblem(asProblem(error).message);
    }
  };
  return (
    <details className="rule-typed">
      <summary>{t('repeat.asText')}</summary>
      <Form.Control
        size="sm"
        aria-label={t('repeat.text')}
        placeholder="FREQ=MONTHLY;BYDAY=-1FR"
        value={text}
        isInvalid={problem !== null}
        spellCheck={false}
        onChange={(e) => {
          setText(e.target.value);
          setProblem(null);
        }}
        onBlur={() => void read()}
        onKeyDown={(e) => {
          if (e.key !== 'Enter') return;
          e.preventDefault();
          void read();
        }}
      />
      <FieldProblem text={problem} />
    </details>
  );
};
