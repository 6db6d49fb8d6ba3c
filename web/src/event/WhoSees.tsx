import { keepPreviousData, useQuery } from '@tanstack/react-query';
import Form from 'react-bootstrap/Form';
import { api, type Calendar, type Reach } from '../shared/api/client';
import { clockText } from '../shared/dates';
import { useTexts } from '../shared/i18n';
import { AUDIENCES, DETAILS } from '../shared/reach';
import type { EventDraft } from './draft/draft';
import { SheetRow } from '../shared/parts/Sheet';
import { useLists } from '../shared/data/useLists';

interface Props {
  draft: EventDraft;
  calendar: Calendar;
  /** Null where the reach is not this scope's to change. */
  onReach: ((reach: Reach | null) => void) | null;
}

/** What each audience gets of this event, as a sample; it can be less than the calendar gives, never more. */
export const WhoSees = ({ draft, calendar, onReach }: Props) => {
  const { t, language } = useTexts();
  const lists = useLists();
  const category = lists.categories.find((c) => c.id === draft.facts.categoryId)?.reach ?? null;
  const typed = {
    calendarId: calendar.id,
    categoryId: draft.facts.categoryId,
    own: draft.facts.reach,
    isDraft: draft.facts.isDraft,
  };
  const reach = useQuery({
    queryKey: ['event-reach', typed, calendar.reach, category],
    queryFn: () => api.eventReach(typed),
    placeholderData: keepPreviousData,
    staleTime: 60_000,
  });
  const time = draft.allDay
    ? t('allDay')
    : `${clockText(`${draft.firstDay}T${draft.from}`, language)}–${clockText(`${draft.lastDay}T${draft.to}`, language)}`;
  const sample = {
    nothing: t('reach.nothing'),
    timesOnly: time,
    headlines: [draft.title, time, draft.place].filter(Boolean).join(', '),
    everything: t('reach.everything'),
  };
  if (!reach.data) return null;
  const { given, shown } = reach.data;
  return (
    <SheetRow label={t('sheet.who')}>
      <dl className="who-sees">
        <div>
          <dt>{t('audience.team')}</dt>
          <dd>{sample.everything}</dd>
        </div>
        {AUDIENCES.map((audience) => {
          const detail = shown[audience];
          return (
            <div key={audience}>
              <dt>{t(`audience.${audience}`)}</dt>
              <dd className={detail === 'nothing' ? 'quiet' : ''}>
                {onReach && !draft.facts.isDraft && given[audience] !== 'nothing' && (
                  <Form.Select
                    size="sm"
                    aria-label={t('reach.ofEvent', { audience: t(`audience.${audience}`) })}
                    value={shown[audience]}
                    onChange={(e) => {
                      const picked = DETAILS.find((d) => d === e.target.value);
                      if (picked)
                        void api.eventReach({ ...typed, audience, detail: picked }).then(({ own }) => onReach(own));
                    }}
                  >
                    {DETAILS.slice(0, DETAILS.indexOf(given[audience]) + 1).map((d) => (
                      <option key={d} value={d}>
                        {t(`reach.detail.${d}`)}
                      </option>
                    ))}
                  </Form.Select>
                )}
                {(detail === 'headlines' || detail === 'timesOnly' || given[audience] === 'nothing' || !onReach) && (
                  <span>{sample[detail]}</span>
                )}
              </dd>
            </div>
          );
        })}
      </dl>
      {draft.facts.isDraft && <p className="quiet">{t('reach.draft')}</p>}
      {category && <p className="quiet">{t('reach.byCategory')}</p>}
    </SheetRow>
  );
};
