import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { api, ApiProblem } from '../shared/api/client';
import { formatMoment, monday } from '../shared/dates';
import { problemText, useTexts } from '../shared/i18n';
import { SheetRow } from '../shared/parts/Sheet';

/** Where an event comes from, how old that is, and what is other here than there. Nothing of one that was made here. */
export const ComesFrom = ({ eventId, version }: { eventId: string; version: number }) => {
  const { t, language } = useTexts();
  const origin = useQuery({ queryKey: ['origin', eventId, version], queryFn: () => api.origin(eventId) }).data;
  if (!origin) return null;
  if (origin.copiedFrom)
    return (
      <SheetRow label={t('origin.title')}>
        <p>
          {t('origin.copied', { source: origin.name })}{' '}
          <Link
            to={`/plan?from=${monday(origin.copiedFrom.date)}&open=${origin.copiedFrom.eventId}_${origin.copiedFrom.start}`}
          >
            {origin.copiedFrom.title}
          </Link>
        </p>
      </SheetRow>
    );
  return (
    <SheetRow label={t('origin.title')}>
      <p>
        {origin.sourceId ? <Link to={`/elsewhere/${origin.sourceId}`}>{origin.name}</Link> : origin.name}
        {origin.readAt && (
          <span className="quiet"> {t('origin.readAt', { at: formatMoment(origin.readAt, language) })}</span>
        )}
      </p>
      {origin.isKept && <p>{t('origin.kept')}</p>}
      {origin.problem && <p>{problemText(t, new ApiProblem(0, origin.problem, origin.problem))}</p>}
      {origin.own.length > 0 && (
        <p className="quiet">
          {t('origin.own', {
            parts: origin.own.map((part) => t(`origin.part.${part.replace('facts.', '')}`, part)).join(', '),
          })}
        </p>
      )}
    </SheetRow>
  );
};
