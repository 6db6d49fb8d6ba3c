import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import { api, asProblem, type WhoSees } from '../shared/api/client';
import { useTexts } from '../shared/i18n';
import { AUDIENCES, DETAILS } from '../shared/reach';
import { markClass, Spine } from '../shared/parts/Spine';
import { Told } from '../shared/parts/Told';
import './whosees.scss';

const COLUMNS = [
  'title',
  'members',
  'linkHolders',
  'everyone',
  'events',
  'narrowed',
  'files',
  'roles',
  'publications',
] as const;
type Column = (typeof COLUMNS)[number];

const valueOf = (row: WhoSees, column: Column): string | number => {
  switch (column) {
    case 'title':
      return row.title.toLocaleLowerCase();
    case 'members':
    case 'linkHolders':
    case 'everyone':
      return -DETAILS.indexOf(row.reach[column]);
    case 'roles':
    case 'publications':
      return -row[column].length;
    case 'narrowed':
      return -(row.narrowed + row.drafts);
    default:
      return -row[column];
  }
};

/** The rows by a column, the most open first. */
export const sorted = (rows: WhoSees[], column: Column, turned: boolean): WhoSees[] =>
  rows.toSorted((a, b) => {
    const [x, y] = [valueOf(a, column), valueOf(b, column)];
    const order = typeof x === 'number' && typeof y === 'number' ? x - y : String(x).localeCompare(String(y));
    return (turned ? -order : order) || a.title.localeCompare(b.title);
  });

/** Which calendar shows what to whom, for the whole school: to be read by who answers for privacy. */
export const WhoSeesPage = () => {
  const { t } = useTexts();
  const rows = useQuery({ queryKey: ['who-sees'], queryFn: api.whoSees });
  const [by, setBy] = useState<{ column: Column; turned: boolean }>({ column: 'everyone', turned: false });
  if (rows.error) return <Told problem={asProblem(rows.error)} />;
  if (!rows.data) return <p className="loading">{t('loading')}</p>;
  const open = rows.data.filter((r) => r.reach.everyone !== 'nothing').length;
  return (
    <main className="who-sees-page">
      <div className="page-head">
        <h1>{t('whoSees.title')}</h1>
        <p className="quiet">{t('whoSees.count', { count: rows.data.length, open })}</p>
        <a className="btn btn-outline-primary" href="/api/who-sees.csv" download>
          {t('whoSees.table')}
        </a>
      </div>
      {/* It scrolls sideways on narrow screens, by keys too. */}
      <div className="who-sees-scroll" role="region" aria-label={t('whoSees.title')} tabIndex={0}>
        <table>
          <thead>
            <tr>
              {COLUMNS.map((column) => (
                <th
                  key={column}
                  scope="col"
                  aria-sort={by.column === column ? (by.turned ? 'descending' : 'ascending') : undefined}
                >
                  <button type="button" onClick={() => setBy({ column, turned: by.column === column && !by.turned })}>
                    {column === 'title' ? t('sheet.calendar') : t(`whoSees.${column}`)}
                    {by.column === column && <span aria-hidden="true">{by.turned ? ' ↑' : ' ↓'}</span>}
                  </button>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {sorted(rows.data, by.column, by.turned).map((row) => (
              <tr key={row.calendarId}>
                <th scope="row" className={markClass(row.mark)}>
                  <Spine /> {row.title}
                </th>
                {AUDIENCES.map((audience) => (
                  <td key={audience} className={`detail-${row.reach[audience]}`}>
                    {t(`reach.detail.${row.reach[audience]}`)}
                  </td>
                ))}
                <td className="number">{row.events}</td>
                <td>
                  {[
                    row.narrowed > 0 && t('whoSees.narrowedOnes', { count: row.narrowed }),
                    row.drafts > 0 && t('whoSees.drafts', { count: row.drafts }),
                  ]
                    .filter(Boolean)
                    .join(', ')}
                </td>
                <td className="number">{row.files}</td>
                <td>{row.roles.map((r) => `${r.name} (${t(`roles.${r.role}`)})`).join(', ')}</td>
                <td>{row.publications.join(', ')}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="quiet who-sees-foot">
        {t('whoSees.foot')} <Link to="/people">{t('nav.people')}</Link>
      </p>
    </main>
  );
};
