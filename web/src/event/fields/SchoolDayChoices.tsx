import Form from 'react-bootstrap/Form';
import { useQuery } from '@tanstack/react-query';
import { api, type Follows } from '../../shared/api/client';
import type { Day } from '../../shared/dates';
import { useTexts } from '../../shared/i18n';

interface Props {
  follows: Follows | null;
  start: Day;
  onFollows: (follows: Follows | null) => void;
}

const DAYS = ['anyDay', 'inTerm', 'onSchoolDays'] as const;
const CLOSURES = ['keep', 'leaveOut', 'nextOpenDay', 'previousOpenDay'] as const;

const toggled = (numbers: number[] | null | undefined, number: number): number[] =>
  numbers?.includes(number) ? numbers.filter((n) => n !== number) : [...(numbers ?? []), number].sort((a, b) => a - b);

/** How a series follows school days: on which of them it lies, and what becomes of it on a closure. */
export const SchoolDayChoices = ({ follows, start, onFollows }: Props) => {
  const { t } = useTexts();
  const years = useQuery({ queryKey: ['school-years'], queryFn: api.schoolYears });
  const year = years.data?.find((y) => y.first <= start && start <= y.last) ?? years.data?.at(-1);
  // What a school does not have, it is not asked about.
  if (!year) return null;
  const now: Follows = follows ?? { days: 'anyDay', closures: 'keep' };
  const set = (change: Partial<Follows>) => {
    const next = { ...now, ...change };
    // A day of the rotation is a school day, and a school day is an open one.
    if (next.cycleDays?.length) next.days = 'onSchoolDays';
    if (next.days === 'onSchoolDays' && next.closures === 'keep') next.closures = 'leaveOut';
    const plain = next.days === 'anyDay' && next.closures === 'keep' && !next.cycleDays?.length && !next.weeks?.length;
    onFollows(plain ? null : next);
  };
  const toggles = (
    label: string,
    numbers: number[] | null | undefined,
    names: string[],
    onToggle: (n: number) => void,
  ) => (
    <div className="repeat-line">
      <span aria-hidden="true">{label}</span>
      <div className="weekdays" role="group" aria-label={label}>
        {names.map((name, i) => (
          <button
            key={name}
            type="button"
            aria-pressed={numbers?.includes(i + 1) ?? false}
            aria-label={name}
            onClick={() => onToggle(i + 1)}
          >
            {name.split(' ').at(-1)}
          </button>
        ))}
      </div>
    </div>
  );
  return (
    <fieldset className="follows">
      <legend className="visually-hidden">{t('follow.label')}</legend>
      <Form.Select
        size="sm"
        aria-label={t('follow.days.label')}
        value={now.days}
        onChange={(e) => {
          const days = e.target.value as Follows['days'];
          set({ days, ...(days === 'onSchoolDays' ? {} : { cycleDays: [] }) });
        }}
      >
        {DAYS.map((days) => (
          <option key={days} value={days}>
            {t(`follow.days.${days}`)}
          </option>
        ))}
      </Form.Select>
      <label className="repeat-line">
        {t('follow.closureLine')}
        <Form.Select
          size="sm"
          aria-label={t('follow.closures.label')}
          value={now.closures}
          onChange={(e) => set({ closures: e.target.value as Follows['closures'] })}
        >
          {CLOSURES.filter((c) => c !== 'keep' || now.days !== 'onSchoolDays').map((closures) => (
            <option key={closures} value={closures}>
              {t(`follow.closures.${closures}`)}
            </option>
          ))}
        </Form.Select>
      </label>
      {year.cycleLength > 0 &&
        toggles(
          t('follow.cycle'),
          now.cycleDays,
          Array.from({ length: year.cycleLength }, (_, i) => t('follow.cycleDay', { day: i + 1 })),
          (day) => set({ cycleDays: toggled(now.cycleDays, day) }),
        )}
      {year.weekLetters.length > 0 &&
        toggles(
          t('follow.weeks'),
          now.weeks,
          year.weekLetters.map((letter) => t('follow.week', { letter })),
          (week) => set({ weeks: toggled(now.weeks, week) }),
        )}
    </fieldset>
  );
};
