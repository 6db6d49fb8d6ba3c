import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import Button from 'react-bootstrap/Button';
import { api, asProblem, type Publication, type Readings } from '../shared/api/client';
import { formatDay } from '../shared/dates';
import { problemText, useTexts } from '../shared/i18n';
import { useProof } from './ProofPanel';

export const useReadings = (publication: Publication) =>
  useQuery({
    queryKey: ['readings', publication.id, publication.changedAt],
    queryFn: () => api.readings(publication.id),
    refetchInterval: 15_000,
  });

/** How long ago something was, in words. */
const useAgo = () => {
  const { language } = useTexts();
  const form = new Intl.RelativeTimeFormat(language, { numeric: 'auto' });
  return (moment: string): string => {
    const seconds = (new Date(moment).getTime() - Date.now()) / 1000;
    const [size, unit] = (
      [
        [86_400, 'day'],
        [3600, 'hour'],
        [60, 'minute'],
      ] as const
    ).find(([s]) => Math.abs(seconds) >= s) ?? [1, 'second' as const];
    return form.format(Math.round(seconds / size), unit);
  };
};

/** Who reads: by kind of program, how many about, and what share has the newest. */
export const ReadersPanel = ({ publication }: { publication: Publication }) => {
  const { t } = useTexts();
  const readings = useReadings(publication);
  const ago = useAgo();
  if (!readings.data)
    return <p className="loading">{readings.error ? problemText(t, asProblem(readings.error)) : t('loading')}</p>;
  const { data } = readings;
  const total = data.days.reduce((sum, d) => sum + d.fetches, 0);
  return (
    <div className="panel" aria-label={t('readers.title')} role="region">
      {total === 0 ? (
        <p>{t('readers.none')}</p>
      ) : (
        <>
          <dl className="numbers">
            <div>
              <dt>{t('readers.last')}</dt>
              <dd>{data.lastFetch ? ago(data.lastFetch) : '–'}</dd>
            </div>
            <div>
              <dt>{t('readers.today')}</dt>
              <dd>{data.days.at(-1)?.readers ?? 0}</dd>
            </div>
            <div>
              <dt>{t('readers.followers')}</dt>
              <dd>{data.feedReaders}</dd>
            </div>
            <div>
              <dt>{t('readers.newest')}</dt>
              <dd>
                {data.feedReaders > 0 ? `${Math.round((100 * data.feedReadersNewest) / data.feedReaders)} %` : '–'}
              </dd>
            </div>
            <div>
              <dt>{t('readers.interval')}</dt>
              <dd>{t('readers.minutes', { count: data.refreshMinutes })}</dd>
            </div>
          </dl>
          <Chart readings={data} />
          <h3>{t('readers.programs')}</h3>
          <table>
            <thead>
              <tr>
                <th>{t('readers.kind')}</th>
                <th>{t('readers.outlet')}</th>
                <th className="number">{t('readers.readers')}</th>
                <th className="number">{t('readers.fetches')}</th>
                <th className="number">{t('readers.unchanged')}</th>
                <th>{t('readers.lastOf')}</th>
              </tr>
            </thead>
            <tbody>
              {data.today.map((r) => (
                <tr key={`${r.outlet} ${r.kind} ${r.family}`}>
                  <td>
                    {t(`readers.kinds.${r.kind}`)}
                    {r.family && <span className="quiet"> {r.family}</span>}
                  </td>
                  <td>{t(`readers.outlets.${r.outlet}`)}</td>
                  <td className="number">{r.readers}</td>
                  <td className="number">{r.fetches}</td>
                  <td className="number">{r.unchanged}</td>
                  <td>{ago(r.at)}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {data.today.length === 0 && <p className="quiet">{t('readers.noneToday')}</p>}
        </>
      )}
      <ByMail readers={readings.data.byMail} />
      <p className="quiet">{t('readers.privacy')}</p>
    </div>
  );
};

/** Whether the school writes to visitors, and to how many of this publication. */
const ByMail = ({ readers }: { readers: number }) => {
  const { t } = useTexts();
  const queries = useQueryClient();
  const [problem, setProblem] = useState<string | null>(null);
  const settings = useQuery({ queryKey: ['reader-mail'], queryFn: api.readerMail }).data;
  if (!settings) return null;
  const set = async (isOn: boolean) => {
    setProblem(null);
    try {
      queries.setQueryData(['reader-mail'], await api.setReaderMail(isOn));
    } catch (error) {
      setProblem(problemText(t, asProblem(error)));
    }
  };
  return (
    <section>
      <h3>{t('readers.byMail')}</h3>
      <p>{settings.isOn ? t('readers.byMailOn', { count: readers }) : t('readers.byMailOff')}</p>
      {settings.mayChange && (
        <Button size="sm" variant="outline-primary" onClick={() => void set(!settings.isOn)}>
          {t(settings.isOn ? 'readers.turnOff' : 'readers.turnOn')}
        </Button>
      )}
      {problem && (
        <p className="notice notice-danger" role="alert">
          {problem}
        </p>
      )}
    </section>
  );
};

/** Fetches a day over four weeks: bars, with their numbers for who does not see them. */
const Chart = ({ readings }: { readings: Readings }) => {
  const { t, language } = useTexts();
  const most = Math.max(...readings.days.map((d) => d.fetches), 1);
  const name = (day: string) => formatDay(day, language, { day: 'numeric', month: 'short' });
  return (
    <figure className="reading-chart">
      <figcaption>{t('readers.chart', { most })}</figcaption>
      <ol>
        {readings.days.map((d) => (
          <li key={d.day} title={t('readers.bar', { day: name(d.day), fetches: d.fetches, readers: d.readers })}>
            <span className="bar" style={{ height: `${(100 * d.fetches) / most}%` }} />
            <span className="visually-hidden">
              {t('readers.bar', { day: name(d.day), fetches: d.fetches, readers: d.readers })}
            </span>
          </li>
        ))}
      </ol>
      <div className="ends quiet" aria-hidden="true">
        <span>{name(readings.days[0]?.day ?? '')}</span>
        <span>{name(readings.days.at(-1)?.day ?? '')}</span>
      </div>
    </figure>
  );
};

/** Why a change is not there yet, with the facts of this publication. */
export const WhyPanel = ({ publication }: { publication: Publication }) => {
  const { t, language } = useTexts();
  const readings = useReadings(publication);
  const proof = useProof(publication, false).data;
  const ago = useAgo();
  const { data } = readings;
  const moment = (text: string) =>
    new Intl.DateTimeFormat(language, { dateStyle: 'medium', timeStyle: 'short' }).format(new Date(text));
  const waits =
    data && publication.choices.from && new Date(publication.choices.from).getTime() > readings.dataUpdatedAt;
  return (
    <div className="panel why-panel" aria-label={t('why.title')} role="region">
      <h3>{t('why.title')}</h3>
      <ol>
        <li>
          <strong>{t('why.changed')}</strong>{' '}
          {t('why.changedAt', { moment: moment(publication.changedAt), ago: ago(publication.changedAt) })}
        </li>
        {publication.hasChanges && (
          <li className="is-reason">
            <strong>{t('why.draft')}</strong> {t('why.draftHow')}
          </li>
        )}
        {publication.takenDown && (
          <li className="is-reason">
            <strong>{t('why.down')}</strong>
          </li>
        )}
        {waits && (
          <li className="is-reason">
            <strong>{t('why.later', { moment: moment(publication.choices.from ?? '') })}</strong>
          </li>
        )}
        {proof && (
          <li className={proof.events === 0 || proof.heldBack.length > 0 ? 'is-reason' : ''}>
            <strong>{t('why.goOut', { count: proof.events })}</strong>
            {proof.heldBack.length > 0 && (
              <ul>
                {proof.heldBack.map((h) => {
                  const reason = t(`proof.reason.${h.reason}`);
                  return (
                    <li key={`${h.calendarId} ${h.reason}`}>
                      {h.events > 0
                        ? t('why.heldOf', { count: h.events, title: h.title, reason })
                        : t('why.heldAll', { title: h.title, reason })}
                      {h.since && t('why.since', { moment: moment(h.since) })}
                    </li>
                  );
                })}
              </ul>
            )}
          </li>
        )}
        <li>
          <strong>{t('why.page')}</strong> {t('why.pageHow')}
        </li>
        <li>
          <strong>{t('why.feed')}</strong>{' '}
          {data
            ? data.feedReaders > 0
              ? t('why.feedHow', {
                  minutes: data.refreshMinutes,
                  readers: data.feedReaders,
                  newest: data.feedReadersNewest,
                })
              : t('why.feedNone', { minutes: data.refreshMinutes })
            : t('loading')}{' '}
          {data?.lastFeedFetch && t('why.lastFetch', { moment: moment(data.lastFeedFetch) })}
        </li>
        <li>
          <strong>{t('why.late')}</strong> {t('why.lateHow')}
        </li>
        <li>
          <strong>{t('why.frozen')}</strong> {t('why.frozenHow')}
        </li>
      </ol>
    </div>
  );
};
