import { useEffect, useState, type SubmitEvent, type ReactNode } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { api, asProblem, type ApiProblem, type Invitation } from '../shared/api/client';
import { Problem } from './Problem';
import { FieldProblem } from '../shared/parts/FieldProblem';
import { problemText, useTexts } from '../shared/i18n';

// The secret stands behind the sign that browsers send to nobody.
const secret = () => location.hash.slice(1);

const Frame = ({ title, children }: { title: string; children: ReactNode }) => (
  <main className="way-in">
    <p className="sign-in-name">Valtro</p>
    <h1>{title}</h1>
    {children}
  </main>
);

interface PasswordProps {
  value: string;
  wrong: string | null;
  onValue: (value: string) => void;
}

const PasswordField = ({ value, wrong, onValue }: PasswordProps) => {
  const { t } = useTexts();
  return (
    <Form.Group controlId="new-password">
      <Form.Label>{t('wayIn.password')}</Form.Label>
      <Form.Control
        type="password"
        autoComplete="new-password"
        value={value}
        isInvalid={wrong !== null}
        onChange={(e) => onValue(e.target.value)}
      />
      <FieldProblem text={wrong} />
      <p className="quiet">{t('wayIn.passwordHint')}</p>
    </Form.Group>
  );
};

const useForm = (send: () => Promise<unknown>) => {
  const { t } = useTexts();
  const [problem, setProblem] = useState<ApiProblem | null>(null);
  const submit = async (e: SubmitEvent) => {
    e.preventDefault();
    try {
      await send();
      location.assign('/plan');
    } catch (error) {
      setProblem(asProblem(error));
    }
  };
  const wrong = (field: string) => (problem?.field === field ? problemText(t, problem) : null);
  const other = problem && !problem.field ? problemText(t, problem) : null;
  return { submit: (e: SubmitEvent) => void submit(e), wrong, other };
};

/** Where an invitation leads: a name, a password, and one is in. */
const Join = () => {
  const { t } = useTexts();
  const [token] = useState(secret);
  const [name, setName] = useState('');
  const [password, setPassword] = useState('');
  const [invitation, setInvitation] = useState<Invitation | null>(null);
  const [refused, setRefused] = useState<string | null>(null);
  useEffect(() => {
    api.invitation(token).then(setInvitation, (error: unknown) => setRefused(problemText(t, asProblem(error))));
  }, [token, t]);
  const form = useForm(() => api.acceptInvitation(token, name, password));
  if (refused)
    return (
      <Frame title={t('wayIn.join')}>
        <Problem text={refused} />
      </Frame>
    );
  if (!invitation) return <p className="loading">{t('loading')}</p>;
  return (
    <Frame title={t('wayIn.joinSchool', { school: invitation.school })}>
      <p className="quiet">{t('wayIn.joinAs', { email: invitation.email })}</p>
      <Form noValidate onSubmit={form.submit}>
        <Form.Group controlId="name">
          <Form.Label>{t('wayIn.name')}</Form.Label>
          <Form.Control
            autoComplete="name"
            autoFocus
            value={name}
            isInvalid={form.wrong('name') !== null}
            onChange={(e) => setName(e.target.value)}
          />
          <FieldProblem text={form.wrong('name')} />
        </Form.Group>
        <PasswordField value={password} wrong={form.wrong('password')} onValue={setPassword} />
        <Problem text={form.other} />
        <Button type="submit">{t('wayIn.joinNow')}</Button>
      </Form>
    </Frame>
  );
};

/** Where the mail for another address leads. */
const NewAddress = () => {
  const { t } = useTexts();
  const [token] = useState(secret);
  const [done, setDone] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const confirm = () =>
    void api.takeEmail(token).then(
      () => setDone(true),
      (error: unknown) => setProblem(problemText(t, asProblem(error))),
    );
  return (
    <Frame title={t('wayIn.newAddress')}>
      {done ? (
        <p role="status">
          {t('wayIn.addressTaken')} <a href="/plan">{t('nav.plan')}</a>
        </p>
      ) : (
        // A click: programs that look into mails open links too.
        <Button onClick={confirm}>{t('wayIn.confirmAddress')}</Button>
      )}
      <Problem text={problem} />
    </Frame>
  );
};

const ZONE_HERE = Intl.DateTimeFormat().resolvedOptions().timeZone;

/** The first school of an empty installation and its administrator. */
const FirstRun = () => {
  const { t, language } = useTexts();
  const [draft, setDraft] = useState({ code: '', school: '', shortName: '', zone: ZONE_HERE, name: '', email: '' });
  const [password, setPassword] = useState('');
  const form = useForm(() => api.firstRun({ ...draft, language, password }));
  const field = (key: keyof typeof draft, type = 'text', autoComplete = 'off') => (
    <Form.Group controlId={`first-${key}`}>
      <Form.Label>{t(`firstRun.${key}`)}</Form.Label>
      <Form.Control
        type={type}
        autoComplete={autoComplete}
        autoFocus={key === 'code'}
        value={draft[key]}
        isInvalid={form.wrong(key) !== null}
        onChange={(e) => setDraft({ ...draft, [key]: e.target.value })}
      />
      <FieldProblem text={form.wrong(key)} />
    </Form.Group>
  );
  return (
    <Frame title={t('firstRun.title')}>
      <p className="quiet">{t('firstRun.lead')}</p>
      <Form noValidate onSubmit={form.submit}>
        {field('code')}
        {field('school')}
        {field('shortName')}
        {field('zone')}
        {field('name', 'text', 'name')}
        {field('email', 'email', 'email')}
        <PasswordField value={password} wrong={form.wrong('password')} onValue={setPassword} />
        <Problem text={form.other} />
        <Button type="submit">{t('firstRun.go')}</Button>
      </Form>
    </Frame>
  );
};

/** Where the mail for a forgotten password leads. */
const NewPassword = () => {
  const { t } = useTexts();
  const [token] = useState(secret);
  const [password, setPassword] = useState('');
  const form = useForm(() => api.newPassword(token, password));
  return (
    <Frame title={t('wayIn.newPassword')}>
      <Form noValidate onSubmit={form.submit}>
        <PasswordField value={password} wrong={form.wrong('password')} onValue={setPassword} />
        <Problem text={form.other} />
        <Button type="submit">{t('wayIn.setPassword')}</Button>
      </Form>
    </Frame>
  );
};

/** Where somebody comes in who has no session: by a link of a mail, or to begin. */
export const WAYS_IN: Record<string, () => ReactNode> = {
  '/join': Join,
  '/new-password': NewPassword,
  '/new-address': NewAddress,
  '/first-run': FirstRun,
};
