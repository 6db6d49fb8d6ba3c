import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useRef, useState, type SubmitEvent } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { useSearchParams } from 'react-router';
import { api, asProblem, type Session, type SchoolYear, type YearPlan } from '../shared/api/client';
import { DateField } from '../shared/parts/DateField';
import { dayOf, dayRangeText, shortDay } from '../shared/dates';
import { FieldProblem } from '../shared/parts/FieldProblem';
import { useKeptForm } from '../shared/useKeptForm';
import { problemText, useTexts } from '../shared/i18n';
import { WEEKDAYS, weekdayName, type Weekday } from '../shared/rules';
import { Told } from '../shared/parts/Told';
import { useDebounced } from '../shared/useDebounced';
import { useActions } from '../shared/data/actions';
import { useCalendars } from '../shared/data/useCalendars';
import { CalendarChoice } from './CalendarChoice';
import { ChosenDays } from './ChosenDays';
import { SpanList } from './SpanList';
import { YearSheet } from './YearSheet';
import { draftOfYear, firstYear, lettersOf, nextYear, type DaySpan, type YearDraft } from './yearDraft';
import { yearName } from '../shared/dates';
import './year.scss';

/** The school's years: chosen by the address, or the one around today. */
interface PageProps {
  school: Session['school'];
  /** The years are the administrators' to keep; others read them. */
  isAdministrator: boolean;
}

export const SchoolYearPage = ({ school, isAdministrator }: PageProps) => {
  const { t } = useTexts();
  const [params, setParams] = useSearchParams();
  const years = useQuery({ queryKey: ['school-years'], queryFn: api.schoolYears });
  if (years.error) return <Told problem={asProblem(years.error)} />;
  if (!years.data) return <p className="loading">{t('loading')}</p>;
  const all = years.data;
  const wanted = params.get('year');
  const latest = all.at(-1);
  const isNew = wanted === 'next' || all.length === 0;
  const year = isNew
    ? null
    : (all.find((y) => y.id === wanted) ??
      all.find((y) => y.first <= school.today && school.today <= y.last) ??
      latest ??
      null);
  const show = (id: string) => setParams({ year: id });
  return (
    <main className="school-year">
      <div className="page-head">
        <h1>{t('year.title')}</h1>
        <div className="btn-group" role="group" aria-label={t('year.which')}>
          {all.map((y) => (
            <Button
              key={y.id}
              variant="outline-primary"
              active={y === year}
              aria-pressed={y === year}
              onClick={() => show(y.id)}
            >
              {yearName(y)}
            </Button>
          ))}
          {isAdministrator && (
            <Button variant="outline-primary" active={isNew} aria-pressed={isNew} onClick={() => show('next')}>
              {all.length === 0 ? t('year.first') : t('year.next')}
            </Button>
          )}
        </div>
        <p className="quiet">{t(isAdministrator ? 'year.hint' : 'year.hintMember')}</p>
      </div>
      {!isAdministrator && year && <YearRead year={year} />}
      {isAdministrator && (
        <YearEditor
          key={year?.id ?? `new ${all.length}`}
          year={year}
          blank={year ? draftOfYear(year) : latest ? nextYear(latest) : firstYear(school.today)}
          today={school.today}
          onSaved={show}
          onRemoved={() => setParams({})}
        />
      )}
    </main>
  );
};

/** A year for those who do not keep it. */
const YearRead = ({ year }: { year: SchoolYear }) => {
  const { t, language } = useTexts();
  return (
    <div className="year-read">
      {(['terms', 'closures'] as const).map((part) => (
        <section key={part} aria-label={t(`year.${part}`)}>
          <h2>{t(`year.${part}`)}</h2>
          <ul>
            {year[part].map((span) => (
              <li key={`${span.name} ${span.first}`}>
                {span.name} <span className="quiet">{dayRangeText(span.first, span.last, language)}</span>
              </li>
            ))}
          </ul>
        </section>
      ))}
    </div>
  );
};

interface EditorProps {
  /** The year as it is kept; null for a new one. */
  year: SchoolYear | null;
  blank: YearDraft;
  today: string;
  onSaved: (id: string) => void;
  onRemoved: () => void;
}

const YearEditor = ({ year, blank, today, onSaved, onRemoved }: EditorProps) => {
  const { t, language } = useTexts();
  const actions = useActions();
  const form = useKeptForm(`year ${year?.id ?? 'new'}`, year ? draftOfYear(year) : blank);
  const { base, draft, problem, isDirty: dirty, type: setDraft, settle } = form;
  const [chosen, setChosen] = useState<DaySpan | null>(null);
  const [busy, setBusy] = useState(false);
  const calendars = useCalendars(today);

  const asked = useDebounced(JSON.stringify(draft), 250);
  // While what is typed cannot be a year, the days stay as they were.
  const lastGood = useRef<YearPlan | null>(null);
  const plan = useQuery({
    queryKey: ['year-plan', year?.id, asked],
    queryFn: async () => {
      try {
        lastGood.current = await api.planYear(year?.id ?? null, JSON.parse(asked) as YearDraft);
        return { plan: lastGood.current, problem: null };
      } catch (error) {
        return { plan: lastGood.current, problem: asProblem(error) };
      }
    },
    placeholderData: keepPreviousData,
    staleTime: 0,
  });
  const shown = plan.data?.plan ?? null;
  const wrong = problem ?? plan.data?.problem ?? null;
  const at = (...fields: string[]) =>
    wrong?.field && fields.some((f) => wrong.field === f || wrong.field?.startsWith(`${f}.`))
      ? problemText(t, wrong)
      : null;
  const stale = problem?.code === 'stale_version' ? (problem.current as SchoolYear) : null;
  const isPlaced = wrong?.field && /^(terms|closures|first|last|week|cycleLength|weekLetters|pins)/.test(wrong.field);

  const save = async (version: number | null) => {
    setBusy(true);
    try {
      const saved = year
        ? await actions.changeYear(year, { ...draft, version })
        : await actions.addYear({ ...draft, version: null });
      if (year) settle(draftOfYear(saved), draft);
      else form.handOn(`year ${saved.id}`, draftOfYear(saved), draft);
      setChosen(null);
      onSaved(saved.id);
    } catch (error) {
      form.refuse(asProblem(error));
    } finally {
      setBusy(false);
    }
  };
  const submit = (e: SubmitEvent) => {
    e.preventDefault();
    void save(base.version ?? null);
  };
  const list = calendars.data ?? [];

  return (
    <div className="year-body">
      <YearSheet year={draft} days={shown?.days ?? []} today={today} chosen={chosen} onChoose={setChosen} />
      <aside className="sheet year-panel" aria-label={t('year.panel', { year: yearName(draft) })}>
        {chosen && (
          <ChosenDays
            key={`${chosen.first} ${chosen.last}`}
            span={chosen}
            info={shown?.days.find((d) => d.date === chosen.first)}
            draft={draft}
            calendars={list}
            onDraft={setDraft}
            onDone={() => setChosen(null)}
          />
        )}
        <form onSubmit={submit} noValidate>
          <SpanList
            field="terms"
            label={t('year.terms')}
            empty={t('year.noTerms')}
            example={t('year.termExample')}
            year={draft}
            make={(span) => span}
            spans={draft.terms}
            problem={wrong}
            onSpans={(terms) => setDraft({ ...draft, terms })}
            onShow={({ first, last }) => setChosen(chosen && { first, last })}
          />
          <SpanList
            field="closures"
            label={t('year.closures')}
            empty={t('year.noClosures')}
            example={t('year.closureExample')}
            year={draft}
            make={(span) => ({ ...span, calendarIds: [] })}
            spans={draft.closures}
            problem={wrong}
            onSpans={(closures) => setDraft({ ...draft, closures })}
            onShow={({ first, last }) => setChosen(chosen && { first, last })}
            more={(closure, onChange) => (
              <CalendarChoice
                calendars={list}
                chosen={closure.calendarIds}
                onChoose={(calendarIds) => onChange({ ...closure, calendarIds })}
              />
            )}
          />
          <section className="year-part" aria-label={t('year.counting')}>
            <h2>{t('year.counting')}</h2>
            <div className="weekdays" role="group" aria-label={t('year.week')}>
              {WEEKDAYS.map((day) => (
                <button
                  key={day}
                  type="button"
                  aria-pressed={draft.week.includes(day)}
                  aria-label={weekdayName(day, language)}
                  onClick={() =>
                    setDraft({
                      ...draft,
                      week: WEEKDAYS.filter((d): d is Weekday => (d === day) !== draft.week.includes(d)),
                    })
                  }
                >
                  {weekdayName(day, language, 'short').slice(0, 2)}
                </button>
              ))}
            </div>
            <FieldProblem text={at('week')} />
            <label className="repeat-line">
              {t('year.cycle')}
              <Form.Select
                size="sm"
                value={draft.cycleLength}
                onChange={(e) => {
                  const cycleLength = Number(e.target.value);
                  setDraft({ ...draft, cycleLength, pins: draft.pins.filter((p) => p.cycleDay <= cycleLength) });
                }}
              >
                <option value={0}>{t('year.noCycle')}</option>
                {[2, 3, 4, 5, 6, 7, 8, 9, 10].map((n) => (
                  <option key={n} value={n}>
                    {t('year.cycleDays', { count: n })}
                  </option>
                ))}
              </Form.Select>
            </label>
            {draft.cycleLength > 0 && (
              <Form.Check
                id="cycle-restarts"
                label={t('year.restarts')}
                checked={draft.cycleRestarts}
                onChange={(e) => setDraft({ ...draft, cycleRestarts: e.target.checked })}
              />
            )}
            <FieldProblem text={at('cycleLength', 'pins')} />
            <label className="repeat-line">
              {t('year.letters')}
              <LettersField
                letters={draft.weekLetters}
                isWrong={at('weekLetters') !== null}
                onLetters={(weekLetters) => setDraft({ ...draft, weekLetters })}
              />
            </label>
            {draft.weekLetters.length > 1 && (
              <Form.Check
                id="letters-restart"
                label={t('year.restarts')}
                checked={draft.lettersRestart}
                onChange={(e) => setDraft({ ...draft, lettersRestart: e.target.checked })}
              />
            )}
            <FieldProblem text={at('weekLetters')} />
            <div className="year-ends">
              <span>{t('year.ends')}</span>
              <DateField
                label={t('year.firstDay')}
                value={draft.first}
                onChange={(first) => setDraft({ ...draft, first })}
              />
              <DateField
                label={t('year.lastDay')}
                value={draft.last}
                onChange={(last) => setDraft({ ...draft, last })}
              />
            </div>
            <FieldProblem text={at('first', 'last')} />
          </section>
          {(dirty || !year) && shown && !plan.data?.problem && <Affected plan={shown} />}
          {stale && (
            <div className="notice" role="alert">
              <p>{t('year.stale')}</p>
              <Button onClick={() => void save(stale.version)}>{t('sheet.keepMine')}</Button>{' '}
              <Button variant="outline-primary" onClick={() => settle(draftOfYear(stale))}>
                {t('sheet.takeTheirs')}
              </Button>
            </div>
          )}
          {wrong && !stale && !isPlaced && <Told problem={wrong} />}
          <div className="sheet-foot">
            {(dirty || !year) && (
              <Button type="submit" disabled={busy || (plan.data?.problem ?? null) !== null}>
                {year ? t('year.save') : t('year.create')}
              </Button>
            )}
            {dirty && (
              <Button variant="outline-primary" onClick={() => settle(base)}>
                {t('sheet.putBack')}
              </Button>
            )}
            {!dirty && year && (
              <Button variant="outline-danger" onClick={() => void actions.removeYear(year).then(onRemoved)}>
                {t('year.removeYear', { year: yearName(year) })}
              </Button>
            )}
          </div>
        </form>
      </aside>
    </div>
  );
};

const SHOWN = 6;

/** Which series would get other dates, before anything is saved. */
const Affected = ({ plan }: { plan: YearPlan }) => {
  const { t, language } = useTexts();
  const days = (dates: string[]) =>
    [
      ...dates.slice(0, 3).map((d) => shortDay(dayOf(d), language)),
      dates.length > 3 && t('edit.more', { count: dates.length - 3 }),
    ]
      .filter(Boolean)
      .join(', ');
  return (
    <section className="year-part" aria-label={t('edit.label')}>
      <h2>{t('edit.label')}</h2>
      {plan.series.length === 0 ? (
        <p className="quiet">{t('year.noSeries')}</p>
      ) : (
        <>
          <p>{t('year.series', { count: plan.series.length })}</p>
          <ul className="edit-plan">
            {plan.series.slice(0, SHOWN).map((s) => (
              <li key={s.eventId}>
                <strong>{s.title}</strong>{' '}
                {[
                  s.gone.length > 0 && t('edit.gone', { count: s.gone.length, dates: days(s.gone) }),
                  s.come.length > 0 && t('edit.come', { count: s.come.length, dates: days(s.come) }),
                ]
                  .filter(Boolean)
                  .join(' ')}
              </li>
            ))}
          </ul>
          {plan.series.length > SHOWN && (
            <p className="quiet">{t('edit.more', { count: plan.series.length - SHOWN })}</p>
          )}
        </>
      )}
    </section>
  );
};

interface LettersProps {
  letters: string[];
  isWrong: boolean;
  onLetters: (letters: string[]) => void;
}

/** The letters of alternating weeks, as they are typed as long as that says the same. */
const LettersField = ({ letters, isWrong, onLetters }: LettersProps) => {
  const [text, setText] = useState('');
  const isSame = lettersOf(text).join() === letters.join();
  return (
    <Form.Control
      size="sm"
      value={isSame ? text : letters.join(', ')}
      placeholder="A, B"
      isInvalid={isWrong}
      onChange={(e) => {
        setText(e.target.value);
        onLetters(lettersOf(e.target.value));
      }}
    />
  );
};
