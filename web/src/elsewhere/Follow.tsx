import { useMutation } from '@tanstack/react-query';
import { useState, type SubmitEvent } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { useNavigate } from 'react-router';
import { api, asProblem, type Calendar, type Session } from '../shared/api/client';
import { useActions } from '../shared/data/actions';
import { longDay } from '../shared/dates';
import { useTexts } from '../shared/i18n';
import { MARKS } from '../shared/parts/Spine';
import { Told } from '../shared/parts/Told';

interface Props {
  calendars: Calendar[];
  school: Session['school'];
}

/** An address is looked at first, and followed when it is what was meant. */
export const Follow = ({ calendars, school }: Props) => {
  const { t, language } = useTexts();
  const actions = useActions();
  const go = useNavigate();
  const [address, setAddress] = useState('');
  const [title, setTitle] = useState<string | null>(null);
  const look = useMutation({ mutationFn: api.lookAtAddress });
  const found = look.data;
  const mark = MARKS.find((m) => calendars.every((c) => c.mark !== m)) ?? (calendars.length % MARKS.length) + 1;
  const follow = useMutation({
    mutationFn: () =>
      actions.follow({
        address: found?.address ?? address,
        title: title ?? found?.name ?? '',
        group: t('elsewhere.group'),
        zone: school.zone,
        mark,
        everyMinutes: null,
        pastDays: 30,
        aheadDays: 400,
      }),
    onSuccess: (source) => void go(`/elsewhere/${source.id}`),
  });
  return (
    <div className="follow">
      <Form
        noValidate
        onSubmit={(e: SubmitEvent) => {
          e.preventDefault();
          setTitle(null);
          look.mutate(address);
        }}
      >
        <Form.Label htmlFor="follow-address">{t('follow.address')}</Form.Label>
        <div className="follow-line">
          <Form.Control
            id="follow-address"
            inputMode="url"
            value={address}
            placeholder="https://league.example/calendar.ics"
            onChange={(e) => {
              setAddress(e.target.value);
              look.reset();
            }}
          />
          <Button type="submit" disabled={address.trim() === '' || look.isPending}>
            {t(look.isPending ? 'follow.looking' : 'follow.look')}
          </Button>
        </div>
      </Form>
      {look.error && <Told problem={asProblem(look.error)} />}
      {found && (
        <section className="follow-found" aria-label={t('follow.found')}>
          <p>
            {t('follow.holds', { count: found.events })}
            {found.left > 0 && <> {t('follow.left', { count: found.left })}</>}
          </p>
          <ul>
            {found.samples.map((sample, i) => (
              <li key={`${sample.title} ${i}`}>
                <span className="quiet">{longDay(sample.date, language)}</span> {sample.title}
              </li>
            ))}
          </ul>
          {found.samples.length === 0 && <p className="quiet">{t('follow.noneAhead')}</p>}
          <Form.Label htmlFor="follow-title">{t('follow.title')}</Form.Label>
          <div className="follow-line">
            <Form.Control id="follow-title" value={title ?? found.name} onChange={(e) => setTitle(e.target.value)} />
            <Button disabled={follow.isPending || (title ?? found.name).trim() === ''} onClick={() => follow.mutate()}>
              {t(follow.isPending ? 'follow.following' : 'follow.follow')}
            </Button>
          </div>
          <p className="quiet">{t('follow.readOnly')}</p>
          {follow.error && <Told problem={asProblem(follow.error)} />}
        </section>
      )}
    </div>
  );
};
