import { useState, type SubmitEvent } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { api, asProblem, type ApiProblem, type Installation } from '../shared/api/client';
import { LANGUAGES, loadProblems, problemText, setLanguage, useTexts, type Language } from '../shared/i18n';
import './signin.scss';
import { Forgotten } from './Forgotten';

interface Props {
  installation: Installation;
  /** Called once somebody is signed in. */
  onIn: () => Promise<unknown>;
}

export const SignIn = ({ installation, onIn }: Props) => {
  const { t, language } = useTexts();
  const [email, setEmail] = useState('');
  const [password, setPassword] = useState('');
  const [code, setCode] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<ApiProblem | null>(null);

  const submit = async (e: SubmitEvent) => {
    e.preventDefault();
    setBusy(true);
    setProblem(null);
    try {
      await api.signIn(email, password, code);
      await onIn();
    } catch (error) {
      const told = asProblem(error);
      await loadProblems();
      // The password was right; the code is asked for then.
      if (told.code === 'code_needed' && code === null) setCode('');
      else setProblem(told);
      setBusy(false);
    }
  };

  return (
    <main className="sign-in">
      <div className="sign-in-side" aria-hidden="true">
        {Array.from({ length: 12 }, (_, i) => (
          <div key={i} className={`sign-in-line mark-${i + 1}`}>
            <span className="spine" />
          </div>
        ))}
      </div>
      <div className="sign-in-body">
        <p className="sign-in-name">Valtro</p>
        <h1>{t('signIn.title')}</h1>
        <p className="quiet">{t('signIn.lead')}</p>
        {!installation.hasSchool && (
          <p className="notice">
            {t('signIn.noSchool')} <a href="/first-run">{t('firstRun.begin')}</a>
          </p>
        )}
        <Form onSubmit={(e) => void submit(e)} noValidate>
          <Form.Group controlId="email">
            <Form.Label>{t('signIn.email')}</Form.Label>
            <Form.Control
              type="email"
              autoComplete="username"
              value={email}
              onChange={(e) => setEmail(e.target.value)}
              autoFocus
            />
          </Form.Group>
          <Form.Group controlId="password">
            <Form.Label>{t('signIn.password')}</Form.Label>
            <Form.Control
              type="password"
              autoComplete="current-password"
              value={password}
              onChange={(e) => setPassword(e.target.value)}
            />
          </Form.Group>
          {code !== null && (
            <Form.Group controlId="code">
              <Form.Label>{t('signIn.code')}</Form.Label>
              <Form.Control
                autoFocus
                autoComplete="one-time-code"
                value={code}
                onChange={(e) => setCode(e.target.value)}
              />
            </Form.Group>
          )}
          {problem && (
            <p className="notice notice-danger" role="alert">
              {problemText(t, problem)}
            </p>
          )}
          <Button type="submit" disabled={busy || !email || !password || code === ''}>
            {busy ? t('signIn.busy') : t('signIn.submit')}
          </Button>
        </Form>
        <Forgotten email={email} />
        {installation.isDemo && (
          <p className="sign-in-demo">
            {t('signIn.demo')}{' '}
            <button
              type="button"
              className="btn btn-link p-0"
              onClick={() => {
                setEmail('marit.quill@lanternfell.example');
                setPassword('lantern by night');
              }}
            >
              {t('signIn.demoFill')}
            </button>
          </p>
        )}
        <p className="sign-in-languages">
          {(Object.keys(LANGUAGES) as Language[]).map((code) => (
            <button
              key={code}
              type="button"
              lang={code}
              className="btn btn-link p-0"
              aria-pressed={language === code}
              onClick={() => void setLanguage(code)}
            >
              {LANGUAGES[code]}
            </button>
          ))}
        </p>
      </div>
    </main>
  );
};
