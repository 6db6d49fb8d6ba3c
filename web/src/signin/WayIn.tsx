import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState, type FormEvent, type ReactNode } from 'react';
import { Button, Form } from 'react-bootstrap';
import { Link, useNavigate } from 'react-router';
import { api, asProblem, type ApiProblem } from '../shared/api/client';
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
  const queries = useQueryClient();
  const navigate = useNavigate();
  const [problem, setProblem] = useState<ApiProblem | null>(null);
  const submit = async (e: FormEvent) => {
    e.preventDefault();
    try {
      await send();
      await queries.resetQueries({ queryKey: ['session'] });
      await navigate('/plan');
    } catch (error) {
      setProblem(asProblem(error));
    }
  };
  const wrong = (field: string) => (problem?.field === field ? problemText(t, problem) : null);
  const other = problem && !problem.field ? problemText(t, problem) : null;
  return { submit: (e: FormEvent) => void submit(e), wrong, other };
};

const Problem = ({ text }: { text: string | null }) =>
  text && (
    <p className="notice notice-danger" role="alert">
      {text}
    </p>
  );

/** Where an invitation leads: a name, a password, and one is in. */
export const Join = () => {
  const { t } = useTexts();
  const [token] = useState(secret);
  const [name, setName] = useState('');
  const [password, setPassword] = useState('');
  const invitation = useQuery({ queryKey: ['invitation', token], queryFn: () => api.invitation(token), retry: false });
  const form = useForm(() => api.acceptInvitation(token, name, password));
  if (invitation.error)
    return (
      <Frame title={t('wayIn.join')}>
        <Problem text={problemText(t, asProblem(invitation.error))} />
      </Frame>
    );
  if (!invitation.data) return <p className="loading">{t('loading')}</p>;
  return (
    <Frame title={t('wayIn.joinSchool', { school: invitation.data.school })}>
      <p className="quiet">{t('wayIn.joinAs', { email: invitation.data.email })}</p>
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
export const NewAddress = () => {
  const { t } = useTexts();
  const queries = useQueryClient();
  const [token] = useState(secret);
  const [done, setDone] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const confirm = () =>
    void api
      .takeEmail(token)
      .then(() => queries.invalidateQueries())
      .then(
        () => setDone(true),
        (error: unknown) => setProblem(problemText(t, asProblem(error))),
      );
  return (
    <Frame title={t('wayIn.newAddress')}>
      {done ? (
        <p role="status">
          {t('wayIn.addressTaken')} <Link to="/plan">{t('nav.plan')}</Link>
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
export const FirstRun = () => {
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
export const NewPassword = () => {
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

/** Asks for that mail. */
export const Forgotten = ({ email: first }: { email: string }) => {
  const { t, language } = useTexts();
  const [open, setOpen] = useState(false);
  const [sent, setSent] = useState(false);
  const [email, setEmail] = useState(first);
  const [problem, setProblem] = useState<string | null>(null);
  if (sent)
    return (
      <p className="notice notice-plain" role="status">
        {t('wayIn.sent')}
      </p>
    );
  if (!open)
    return (
      <p>
        <button
          type="button"
          className="btn btn-link p-0"
          onClick={() => {
            setEmail(first);
            setOpen(true);
          }}
        >
          {t('wayIn.forgotten')}
        </button>
      </p>
    );
  return (
    <Form
      noValidate
      className="forgotten"
      onSubmit={(e) => {
        e.preventDefault();
        api.forgotten(email, language).then(
          () => setSent(true),
          (error: unknown) => setProblem(problemText(t, asProblem(error))),
        );
      }}
    >
      <Form.Control
        type="email"
        aria-label={t('wayIn.email')}
        placeholder={t('wayIn.email')}
        autoFocus
        value={email}
        onChange={(e) => setEmail(e.target.value)}
      />
      <Button type="submit" variant="outline-primary" disabled={!email.trim()}>
        {t('wayIn.sendLink')}
      </Button>
      <Problem text={problem} />
    </Form>
  );
};
