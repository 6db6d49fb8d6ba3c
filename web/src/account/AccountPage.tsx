import { useQuery } from '@tanstack/react-query';
import { useState, type SubmitEvent, type ReactNode } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { api, asProblem, type PersonSettings, type Session } from '../shared/api/client';
import { zoneCity } from '../shared/dates';
import { FieldProblem } from '../shared/parts/FieldProblem';
import { LANGUAGES, problemText, useTexts, type Language } from '../shared/i18n';
import { Told } from '../shared/parts/Told';
import { useUndo } from '../shared/data/undo';
import { MODES } from '../shared/theme/mode';
import { OwnPassword } from './OwnPassword';
import { useOwnForm } from './useOwnForm';
import { SecondFactor } from './SecondFactor';
import { useMeanings } from '../shared/data/useMeanings';
import { useSettings } from '../shared/data/useSettings';
import './account.scss';

/** What each keeps of their own account. */
export const AccountPage = ({ session }: { session: Session }) => {
  const { t } = useTexts();
  const account = useQuery({ queryKey: ['account'], queryFn: api.account });
  if (account.error) return <Told problem={asProblem(account.error)} />;
  if (!account.data) return <p className="loading">{t('loading')}</p>;
  const { name, email, sessions } = account.data;
  return (
    <main className="account">
      <div className="page-head">
        <h1>{t('account.title')}</h1>
        <p className="quiet">
          {name} · {email}
        </p>
      </div>
      <div className="account-body">
        <Looks session={session} />
        <Block title={t('account.name')}>
          <NameForm name={name} />
        </Block>
        <Block title={t('account.email')} hint={t('account.emailHint', { email })}>
          <EmailForm />
        </Block>
        <Block title={t('account.password')}>
          <PasswordForm />
        </Block>
        <Block title={t('account.factor')} hint={t('account.factorHint')}>
          <SecondFactor account={account.data} />
        </Block>
        <Block title={t('account.sessions')} hint={t('account.sessionCount', { count: sessions })}>
          <SignOutElsewhere only={sessions < 2} />
        </Block>
        <Meanings />
        <Block title={t('account.data')} hint={t('account.dataHint')}>
          <a href="/api/me/data" download>
            {t('account.dataGet')}
          </a>
        </Block>
      </div>
    </main>
  );
};

const Block = ({ title, hint, children }: { title: string; hint?: string; children: ReactNode }) => (
  <section aria-label={title}>
    <h2>{title}</h2>
    <div>
      {hint && <p className="quiet">{hint}</p>}
      {children}
    </div>
  </section>
);

/** What they chose where a typed line was in doubt, to be forgotten one by one. */
const Meanings = () => {
  const { t } = useTexts();
  const { meanings, forget } = useMeanings();
  const kept = Object.entries(meanings);
  if (kept.length === 0) return null;
  return (
    <Block title={t('account.meanings')} hint={t('account.meaningsHint')}>
      <ul className="account-meanings">
        {kept.map(([said, meant]) => (
          <li key={said}>
            {meant ? t('account.meaningOf', { said, meant }) : t('account.meaningTitle', { said })}{' '}
            <Button
              size="sm"
              variant="link"
              aria-label={t('account.forgetSaid', { said })}
              onClick={() => void forget(said)}
            >
              {t('account.forgetIt')}
            </Button>
          </li>
        ))}
      </ul>
    </Block>
  );
};

const WEEK_STARTS = ['monday', 'sunday', 'saturday'] as const;

/** Language, zone, week, clock, dates, theme: changed as soon as they are chosen. */
const Looks = ({ session }: { session: Session }) => {
  const { t, language } = useTexts();
  const { settings, keep } = useSettings(session);
  const { tell } = useUndo();
  const zones = useQuery({ queryKey: ['zones'], queryFn: api.zones, staleTime: Infinity });
  const [zone, setZone] = useState(settings.zone ?? '');
  const [problem, setProblem] = useState<string | null>(null);
  const set = (change: Partial<PersonSettings>) => {
    setProblem(null);
    keep(change).then(
      () => tell(t('account.kept')),
      (error: unknown) => setProblem(problemText(t, asProblem(error))),
    );
  };
  return (
    <Block title={t('account.looks')} hint={t('account.looksHint')}>
      <div className="account-choices">
        <Choice
          label={t('nav.language')}
          value={settings.language ?? language}
          options={(Object.keys(LANGUAGES) as Language[]).map((code) => [code, LANGUAGES[code]])}
          onChange={(code) => set({ language: code })}
        />
        <Choice
          label={t('nav.theme')}
          value={settings.theme ?? 'auto'}
          options={MODES.map((mode) => [mode, t(`theme.${mode}`)])}
          onChange={(theme) => set({ theme: theme as PersonSettings['theme'] })}
        />
        <label>
          {t('account.zone')}
          <Form.Control
            size="sm"
            list="own-zones"
            placeholder={t('account.zoneOfSchool', { place: zoneCity(session.school.zone) })}
            value={zone}
            isInvalid={problem !== null}
            onChange={(e) => {
              setZone(e.target.value);
              if (e.target.value === '') set({ zone: null });
              else if (zones.data?.includes(e.target.value)) set({ zone: e.target.value });
            }}
            onBlur={() => zone && zone !== settings.zone && set({ zone })}
          />
          <datalist id="own-zones">
            {zones.data?.map((name) => (
              <option key={name} value={name} />
            ))}
          </datalist>
        </label>
        <Choice
          label={t('account.weekStart')}
          value={settings.weekStart ?? 'monday'}
          options={WEEK_STARTS.map((day) => [day, t(`account.day.${day}`)])}
          onChange={(day) => set({ weekStart: day as PersonSettings['weekStart'] })}
        />
        <Choice
          label={t('account.clock')}
          value={settings.hours === 12 ? '12' : '24'}
          options={[
            ['24', '14:30'],
            ['12', '2:30 pm'],
          ]}
          onChange={(hours) => set({ hours: Number(hours) })}
        />
        {language === 'en' && (
          <Choice
            label={t('account.dateOrder')}
            value={settings.dateOrder ?? 'dayFirst'}
            options={[
              ['dayFirst', '23 November'],
              ['monthFirst', 'November 23'],
            ]}
            onChange={(order) => set({ dateOrder: order as PersonSettings['dateOrder'] })}
          />
        )}
      </div>
      <FieldProblem text={problem} />
    </Block>
  );
};

interface ChoiceProps {
  label: string;
  value: string;
  options: [string, string][];
  onChange: (value: string) => void;
}

const Choice = ({ label, value, options, onChange }: ChoiceProps) => (
  <label>
    {label}
    <Form.Select size="sm" value={value} onChange={(e) => onChange(e.target.value)}>
      {options.map(([key, text]) => (
        <option key={key} value={key}>
          {text}
        </option>
      ))}
    </Form.Select>
  </label>
);

const NameForm = ({ name: kept }: { name: string }) => {
  const { t } = useTexts();
  const form = useOwnForm();
  const [name, setName] = useState(kept);
  return (
    <Form
      noValidate
      className="account-form"
      onSubmit={(e: SubmitEvent) => {
        e.preventDefault();
        void form.send(() => api.rename(name), t('account.nameSet'));
      }}
    >
      <Form.Control
        size="sm"
        aria-label={t('account.name')}
        autoComplete="name"
        value={name}
        isInvalid={form.wrong('name') !== null}
        onChange={(e) => setName(e.target.value)}
      />
      <Button type="submit" size="sm" variant="outline-primary" disabled={name === kept}>
        {t('sheet.save')}
      </Button>
      <FieldProblem text={form.wrong('name') ?? form.other} />
    </Form>
  );
};

const EmailForm = () => {
  const { t } = useTexts();
  const form = useOwnForm();
  const [email, setEmail] = useState('');
  const [password, setPassword] = useState('');
  return (
    <Form
      noValidate
      className="account-form"
      onSubmit={(e: SubmitEvent) => {
        e.preventDefault();
        void form
          .send(() => api.wishEmail(email, password), t('account.emailSent', { email }))
          .then((ok) => {
            if (!ok) return;
            setEmail('');
            setPassword('');
          });
      }}
    >
      <label>
        {t('account.newEmail')}
        <Form.Control
          size="sm"
          type="email"
          autoComplete="email"
          value={email}
          isInvalid={form.wrong('email') !== null}
          onChange={(e) => setEmail(e.target.value)}
        />
        <FieldProblem text={form.wrong('email')} />
      </label>
      <OwnPassword
        label={t('account.current')}
        value={password}
        wrong={form.wrong('password') ?? form.other}
        onChange={setPassword}
      />
      <Button type="submit" size="sm" variant="outline-primary" disabled={!email || !password}>
        {t('account.emailAsk')}
      </Button>
    </Form>
  );
};

const PasswordForm = () => {
  const { t } = useTexts();
  const form = useOwnForm();
  const [current, setCurrent] = useState('');
  const [password, setPassword] = useState('');
  return (
    <Form
      noValidate
      className="account-form"
      onSubmit={(e: SubmitEvent) => {
        e.preventDefault();
        void form
          .send(() => api.changePassword(current, password), t('account.passwordSet'))
          .then((ok) => {
            if (!ok) return;
            setCurrent('');
            setPassword('');
          });
      }}
    >
      <OwnPassword
        label={t('account.current')}
        value={current}
        wrong={form.wrong('current') ?? form.other}
        onChange={setCurrent}
      />
      <OwnPassword
        label={t('wayIn.password')}
        value={password}
        wrong={form.wrong('password')}
        isNew
        onChange={setPassword}
      />
      <Button type="submit" size="sm" variant="outline-primary" disabled={!current || !password}>
        {t('wayIn.setPassword')}
      </Button>
    </Form>
  );
};

const SignOutElsewhere = ({ only }: { only: boolean }) => {
  const { t } = useTexts();
  const form = useOwnForm();
  return (
    <>
      <Button
        size="sm"
        variant="outline-primary"
        disabled={only}
        onClick={() => void form.send(api.signOutElsewhere, t('account.signedOut'))}
      >
        {t('account.signOutElsewhere')}
      </Button>
      <FieldProblem text={form.other} />
    </>
  );
};
