import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import Form from 'react-bootstrap/Form';
import { OpeningAsk } from '../calendar/OpeningAsk';
import { api, asProblem, type Calendar, type Choices, type Detail } from '../shared/api/client';
import { useActions } from '../shared/data/actions';
import { useRequests } from '../shared/data/useRequests';
import { formatMoment } from '../shared/dates';
import { problemText, useTexts } from '../shared/i18n';
import { markClass, Spine } from '../shared/parts/Spine';
import { DETAILS } from '../shared/reach';
import { OneCalendar, type For } from './Choices';

interface Props {
  /** Null while it is not kept yet. */
  publicationId: string | null;
  calendars: Calendar[];
  chosen: string[];
  audience: For;
  choices: Choices;
  onChange: (ids: string[]) => void;
  onChoices: (choices: Choices) => void;
}

/** The mark a calendar has in the publication. */
const markHere = (choices: Choices, calendar: Calendar): number =>
  choices.calendars?.find((c) => c.calendarId === calendar.id)?.mark ?? calendar.mark;

/** As the calendars are in order; what is not among them comes last. */
const inOrder = (ids: string[], calendars: Calendar[]): string[] => {
  const place = new Map(calendars.map((c, nth) => [c.id, nth]));
  const at = (id: string) => place.get(id) ?? calendars.length;
  return ids.toSorted((a, b) => at(a) - at(b));
};

/** Which calendars: those the audience may read first, apart from those it may not. */
export const CalendarChoice = (props: Props) => {
  const { calendars, chosen, audience } = props;
  const { t } = useTexts();
  const isOpen = (c: Calendar) => c.reach[audience] !== 'nothing' || chosen.includes(c.id);
  const closed = calendars.filter((c) => !isOpen(c));
  const [shown, setShown] = useState(false);
  return (
    <>
      <ul className="calendar-choice">
        {calendars.filter(isOpen).map((calendar) => (
          <OneChoice key={calendar.id} calendar={calendar} {...props} />
        ))}
      </ul>
      {closed.length > 0 && (
        <details className="narrowing" open={shown} onToggle={(e) => setShown(e.currentTarget.open)}>
          <summary>{t(`publish.closed.${audience}`, { count: closed.length })}</summary>
          <ul className="calendar-choice">
            {closed.map((calendar) => (
              <OneChoice key={calendar.id} calendar={calendar} {...props} />
            ))}
          </ul>
        </details>
      )}
    </>
  );
};

/** One calendar; one its audience cannot see says so at once, with the change that would open it or whom to ask. */
const OneChoice = ({
  publicationId,
  calendar,
  calendars,
  chosen,
  audience,
  choices,
  onChange,
  onChoices,
}: Props & { calendar: Calendar }) => {
  const { t } = useTexts();
  const actions = useActions();
  const [opening, setOpening] = useState<Detail | null>(null);
  const isIn = chosen.includes(calendar.id);
  const detail = calendar.reach[audience];
  const held = isIn && detail === 'nothing';
  return (
    <li className={held ? 'is-held' : ''}>
      <label className={markClass(markHere(choices, calendar))}>
        <Form.Check
          checked={isIn}
          onChange={() =>
            // What stands in it and is not shown to whoever chooses stays in it.
            onChange(isIn ? chosen.filter((c) => c !== calendar.id) : inOrder([...chosen, calendar.id], calendars))
          }
        />
        <Spine />
        <span className="choice-title">{calendar.title}</span>
        <span className="quiet">{isIn ? (held ? t('publish.held') : t(`reach.${detail}`)) : ''}</span>
      </label>
      {isIn && !held && <OneCalendar calendar={calendar} gives={detail} choices={choices} onChoices={onChoices} />}
      {held && (
        <div className="notice">
          <p>
            {audience === 'everyone'
              ? t('publish.heldWhy', { title: calendar.title })
              : t(`publish.heldWhyOf.${audience}`, { title: calendar.title })}
          </p>
          {calendar.role === 'keeper' ? (
            <p className="openings">
              {t(`publish.openItOf.${audience}`)}{' '}
              {DETAILS.slice(1).map((d) => (
                <button
                  key={d}
                  type="button"
                  className="btn btn-link p-0"
                  aria-label={`${t(`publish.openItOf.${audience}`)} ${t(`reach.${d}`)}`}
                  aria-expanded={opening === d}
                  onClick={() => setOpening(d)}
                >
                  {t(`reach.${d}`)}
                </button>
              ))}
            </p>
          ) : (
            <AskKeepers calendar={calendar} publicationId={publicationId} audience={audience} />
          )}
        </div>
      )}
      {held && opening && (
        <OpeningAsk
          calendar={calendar}
          audience={audience}
          detail={opening}
          onOpen={(reach) => void actions.setReach(calendar, reach).then(() => setOpening(null))}
          onLeave={() => setOpening(null)}
        />
      )}
    </li>
  );
};

interface AskProps {
  calendar: Calendar;
  publicationId: string | null;
  audience: For;
}

/** Who may open what is closed, asked in one step; and how that stands. */
const AskKeepers = ({ calendar, publicationId, audience }: AskProps) => {
  const { t, language } = useTexts();
  const queries = useQueryClient();
  const requests = useRequests();
  const [problem, setProblem] = useState<string | null>(null);
  const keepers = useQuery({
    queryKey: ['keepers', calendar.id],
    queryFn: () => api.keepers(calendar.id),
    staleTime: 60_000,
  }).data;
  if (!keepers) return null;
  const last = requests.data?.findLast(
    (r) => r.publicationId === publicationId && r.calendarId === calendar.id && r.audience === audience,
  );
  const ask = async (detail: Detail) => {
    if (!publicationId) return;
    setProblem(null);
    try {
      await api.askToOpen({ publicationId, calendarId: calendar.id, detail, remark: '' });
      await queries.invalidateQueries({ queryKey: ['opening-requests'] });
    } catch (error) {
      setProblem(problemText(t, asProblem(error)));
    }
  };
  const isOpen = last?.given === null;
  return (
    <>
      <p>
        {keepers.length > 0
          ? t('publish.keptBy', { title: calendar.title, who: keepers.join(', ') })
          : t('publish.keptByAdministrators', { title: calendar.title })}
      </p>
      {last && (
        <p role="status">
          {isOpen
            ? t('publish.askedFor', { what: t(`reach.${last.detail}`), day: formatMoment(last.askedAt, language) })
            : t('publish.askRefused', { who: last.answeredBy ?? '' })}
          {last.answerRemark && <q>{last.answerRemark}</q>}
        </p>
      )}
      {publicationId && (
        <p className="openings">
          {t(isOpen ? 'publish.askInstead' : 'publish.askFor')}{' '}
          {DETAILS.slice(1)
            .filter((d) => !isOpen || d !== last.detail)
            .map((d) => (
              <button
                key={d}
                type="button"
                className="btn btn-link p-0"
                aria-label={t('publish.askForOf', { title: calendar.title, what: t(`reach.${d}`) })}
                onClick={() => void ask(d)}
              >
                {t(`reach.${d}`)}
              </button>
            ))}
        </p>
      )}
      {problem && (
        <p className="notice notice-danger" role="alert">
          {problem}
        </p>
      )}
    </>
  );
};
