import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { api, asProblem, type ApiProblem, type Calendar, type Detail, type Reach } from '../shared/api/client';
import { problemText, useTexts } from '../shared/i18n';
import { isStale, merged, overLatest, useBeside } from '../shared/merged';
import { FieldProblem } from '../shared/parts/FieldProblem';
import { AUDIENCES, DETAILS } from '../shared/reach';
import { markClass, Spine } from '../shared/parts/Spine';
import { useActions } from '../shared/data/actions';
import { OpeningAsk } from './OpeningAsk';
import { CalendarAbout, Roles } from './Roles';
import { TakeOut } from './TakeOut';
import { useChosen } from '../shared/useChosen';
import { Sheet, SheetRow } from '../shared/parts/Sheet';
import './calendar.scss';

interface Props {
  calendar: Calendar | null;
  /** Whether it was put in the bin, or closed to whoever looks, while the sheet was open. */
  isGone?: boolean;
  calendars: Calendar[];
  zone: string;
  onClose: () => void;
  onMade: (id: string) => void;
}

const MARKS = Array.from({ length: 12 }, (_, i) => i + 1);

const freeMark = (calendars: Calendar[]): number =>
  MARKS.find((mark) => calendars.every((c) => c.mark !== mark)) ?? (calendars.length % MARKS.length) + 1;

/** A calendar: its name, its mark, its zone and who reads it. */
export const CalendarSheet = ({ calendar, isGone = false, calendars, zone, onClose, onMade }: Props) => {
  const { t } = useTexts();
  const actions = useActions();
  const queries = useQueryClient();
  // Of a new one the mark stays the one that was free when it was begun.
  const [mark] = useState(() => freeMark(calendars));
  const fieldsOf = (of: Calendar | null) => ({
    title: of?.title ?? '',
    description: of?.description ?? '',
    group: of?.group ?? '',
    zone: of?.zone ?? zone,
    mark: of?.mark ?? mark,
  });
  const kept = fieldsOf(calendar);
  const { draft, isDirty, type } = useBeside(kept);
  const [problem, setProblem] = useState<ApiProblem | null>(null);
  const zones = useQuery({ queryKey: ['zones'], queryFn: api.zones, staleTime: Infinity });
  const set = (change: Partial<typeof draft>) => type({ ...draft, ...change });
  const groups = [...new Set(calendars.map((c) => c.group).filter(Boolean))];

  const [isBusy, setBusy] = useState(false);
  const run = async (work: () => Promise<unknown>) => {
    setProblem(null);
    setBusy(true);
    try {
      await work();
    } catch (error) {
      setProblem(asProblem(error));
      // What somebody else did shows itself at once.
      if (isStale(error)) void queries.invalidateQueries({ queryKey: ['board'] });
    }
    setBusy(false);
  };
  const save = () =>
    run(async () => {
      if (calendar)
        await overLatest(calendar, (now) =>
          actions.changeCalendar(now, { ...merged(kept, draft, fieldsOf(now)), version: now.version }),
        );
      else onMade((await actions.addCalendar({ ...draft, version: null })).id);
    });
  const wrong = (field: string) => <FieldProblem text={problem?.field === field && problemText(t, problem)} />;

  return (
    <Sheet
      label={calendar ? calendar.title : t('calendar.new')}
      head={calendar ? t('calendar.one') : t('calendar.new')}
      mark={draft.mark}
      onClose={onClose}
    >
      {calendar && isGone && !isBusy && (
        <div className="notice" role="alert">
          <p>{t(calendar.role === 'keeper' ? 'calendar.goneKept' : 'calendar.gone')}</p>
          {calendar.role === 'keeper' && (
            <Button onClick={() => void run(() => actions.restoreCalendar(calendar.id, calendar.title))}>
              {t('calendar.takeBack')}
            </Button>
          )}
        </div>
      )}
      {calendar && calendar.role !== 'keeper' ? (
        <>
          <CalendarAbout calendar={calendar} />
          {calendar.role && <TakeOut calendar={calendar} />}
        </>
      ) : (
        <form
          noValidate
          onSubmit={(e) => {
            e.preventDefault();
            void save();
          }}
        >
          <Form.Control
            className="sheet-title"
            aria-label={t('calendar.title')}
            placeholder={t('calendar.titlePlaceholder')}
            value={draft.title}
            autoFocus={!calendar}
            isInvalid={problem?.field === 'title'}
            onChange={(e) => set({ title: e.target.value })}
          />
          {wrong('title')}
          {calendar && (
            <ReachRow
              calendar={calendar}
              onReach={(reach, isOutOfSearch) => run(() => actions.setReach(calendar, reach, isOutOfSearch))}
            />
          )}
          {calendar && <Roles calendar={calendar} />}
          <SheetRow label={t('calendar.about')}>
            <Form.Control
              as="textarea"
              rows={3}
              aria-label={t('calendar.description')}
              placeholder={t('calendar.descriptionPlaceholder')}
              value={draft.description}
              isInvalid={problem?.field === 'description'}
              onChange={(e) => set({ description: e.target.value })}
            />
            {wrong('description')}
          </SheetRow>
          <SheetRow label={t('calendar.mark')}>
            <div className="marks" role="radiogroup" aria-label={t('calendar.mark')}>
              {MARKS.map((mark) => (
                <label key={mark} className={`mark-choice ${markClass(mark)}`}>
                  <input
                    type="radio"
                    name="mark"
                    checked={draft.mark === mark}
                    aria-label={t(`mark.${mark}`)}
                    onChange={() => set({ mark })}
                  />
                  <Spine />
                </label>
              ))}
            </div>
          </SheetRow>
          <SheetRow label={t('calendar.group')}>
            <Form.Control
              list="groups"
              aria-label={t('calendar.groupLabel')}
              placeholder={t('calendar.groupPlaceholder')}
              value={draft.group}
              onChange={(e) => set({ group: e.target.value })}
            />
            <datalist id="groups">
              {groups.map((group) => (
                <option key={group} value={group} />
              ))}
            </datalist>
          </SheetRow>
          <SheetRow label={t('calendar.zone')}>
            <Form.Control
              list="zones"
              aria-label={t('calendar.zone')}
              value={draft.zone}
              isInvalid={problem?.field === 'zone'}
              onChange={(e) => set({ zone: e.target.value })}
            />
            <datalist id="zones">
              {zones.data?.map((name) => (
                <option key={name} value={name} />
              ))}
            </datalist>
            {wrong('zone')}
          </SheetRow>
          {calendar && <TakeOut calendar={calendar} />}
          {problem && !problem.field && (
            <p className="notice notice-danger" role="alert">
              {isStale(problem) ? t('meanwhile') : problemText(t, problem)}
            </p>
          )}
          <div className="sheet-foot">
            {(isDirty || !calendar) && (
              <Button type="submit" disabled={isBusy || isGone}>
                {calendar ? t('sheet.save') : t('calendar.add')}
              </Button>
            )}
            {calendar && isDirty && (
              <Button variant="outline-primary" onClick={() => type(kept)}>
                {t('sheet.putBack')}
              </Button>
            )}
            {calendar && !isDirty && !isGone && (
              <Button
                variant="outline-danger"
                disabled={isBusy}
                onClick={() => void run(() => actions.binCalendar(calendar).then(onClose))}
              >
                {t('calendar.bin')}
              </Button>
            )}
          </div>
        </form>
      )}
    </Sheet>
  );
};

type Who = (typeof AUDIENCES)[number];

interface ReachProps {
  calendar: Calendar;
  onReach: (reach: Reach, isOutOfSearch?: boolean) => Promise<void>;
}

/** Who gets what of the calendar; opening anything wider says first what becomes readable, once. */
const ReachRow = ({ calendar, onReach }: ReachProps) => {
  const { t } = useTexts();
  const [asking, setAsking] = useState<{ audience: Who; detail: Detail; reach: Reach } | null>(null);
  const details = useChosen<Detail>();
  const search = useChosen<boolean>();
  // One after the other: the next change is made from what the last one left.
  const isBusy = details.isGoing || search.isGoing;
  const set = (audience: Who, detail: Detail) =>
    details.choose(
      audience,
      detail,
      api.opened(calendar.reach, audience, detail).then(({ reach, widest }) => {
        if (!widest) return onReach(reach);
        setAsking({ audience, detail, reach });
      }),
    );
  const shown = asking?.reach ?? calendar.reach;
  return (
    <SheetRow label={t('sheet.who')}>
      <dl className="who-sees">
        <div>
          <dt>{t('audience.team')}</dt>
          <dd>{t('reach.everything')}</dd>
        </div>
        {AUDIENCES.map((audience) => (
          <div key={audience}>
            <dt>{t(`audience.${audience}`)}</dt>
            <dd>
              <Form.Select
                size="sm"
                aria-label={t('reach.ofCalendar', { audience: t(`audience.${audience}`) })}
                value={details.seen(audience, shown[audience])}
                disabled={isBusy}
                onChange={(e) => set(audience, e.target.value as Detail)}
              >
                {DETAILS.map((detail) => (
                  <option key={detail} value={detail}>
                    {t(`reach.${detail}`)}
                  </option>
                ))}
              </Form.Select>
            </dd>
          </div>
        ))}
      </dl>
      {asking && (
        <OpeningAsk
          calendar={calendar}
          audience={asking.audience}
          detail={asking.detail}
          onOpen={(reach) =>
            details.choose(
              asking.audience,
              asking.detail,
              onReach(reach).then(() => setAsking(null)),
            )
          }
          onLeave={() => setAsking(null)}
        />
      )}
      <Form.Check
        id="out-of-search"
        label={t('calendar.outOfSearch')}
        checked={search.seen('', calendar.isOutOfSearch)}
        disabled={isBusy}
        onChange={(e) => search.choose('', e.target.checked, onReach(calendar.reach, e.target.checked))}
      />
    </SheetRow>
  );
};
