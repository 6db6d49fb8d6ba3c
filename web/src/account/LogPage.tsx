import { useInfiniteQuery } from '@tanstack/react-query';
import { useState } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { usePeople } from '../shared/data/usePeople';
import { api, asProblem } from '../shared/api/client';
import { formatMoment } from '../shared/dates';
import { useTexts } from '../shared/i18n';
import { Told } from '../shared/parts/Told';
import './account.scss';

/** Who did what, when, and from where. */
export const LogPage = () => {
  const { t, language } = useTexts();
  const people = usePeople();
  const [person, setPerson] = useState('');
  const log = useInfiniteQuery({
    queryKey: ['audit', person],
    queryFn: ({ pageParam }) => api.audit(person || null, pageParam),
    initialPageParam: null as string | null,
    getNextPageParam: (last) => (last.hasMore ? (last.entries.at(-1)?.id ?? null) : null),
  });
  const entries = log.data?.pages.flatMap((page) => page.entries) ?? [];
  return (
    <main className="account">
      <div className="page-head">
        <h1>{t('log.title')}</h1>
        <p className="quiet">{t('log.hint')}</p>
        <Form.Select size="sm" aria-label={t('log.person')} value={person} onChange={(e) => setPerson(e.target.value)}>
          <option value="">{t('log.everybody')}</option>
          {people.data?.people.map((one) => (
            <option key={one.id} value={one.id}>
              {one.name}
            </option>
          ))}
        </Form.Select>
        <a href="/api/audit.csv" download>
          {t('log.take')}
        </a>
      </div>
      <div className="account-body log-body">
        {log.error && <Told problem={asProblem(log.error)} />}
        <table>
          <thead>
            <tr>
              <th scope="col">{t('log.at')}</th>
              <th scope="col">{t('log.who')}</th>
              <th scope="col">{t('log.what')}</th>
              <th scope="col">{t('log.from')}</th>
            </tr>
          </thead>
          <tbody>
            {entries.map((entry) => (
              <tr key={entry.id}>
                <td>{formatMoment(entry.at, language)}</td>
                <td>{entry.person ?? t('history.nobody')}</td>
                <td>
                  {t(`log.action.${entry.action.replaceAll(' ', '_')}`, { defaultValue: entry.action })}
                  {entry.about && <strong> {entry.about}</strong>}
                </td>
                <td className="quiet">{entry.address}</td>
              </tr>
            ))}
          </tbody>
        </table>
        {log.hasNextPage && (
          <Button variant="outline-primary" size="sm" onClick={() => void log.fetchNextPage()}>
            {t('log.older')}
          </Button>
        )}
      </div>
    </main>
  );
};
