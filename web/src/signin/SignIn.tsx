import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState, type FormEvent } from 'react';
import { Button, Form } from 'react-bootstrap';
import { Link } from 'react-router';
import { api, asProblem, type ApiProblem } from '../shared/api/client';
import { LANGUAGES, problemText, setLanguage, useTexts, type Language } from '../shared/i18n';
import './signin.scss';
import { Forgotten } from './WayIn';

export const SignIn = () => {
  const { t, language } = useTexts();
  const queries = useQueryClient();
  const installation = useQuery({ queryKey: ['installation'], queryFn: api.installation });
  const [email, setEmail] = useState('');
  const [password, setPassword] = useState('');
  const [code, setCode] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<ApiProblem | null>(null);

  const submit = async (e: FormEvent) => {
    e.preventDefault();
    setBusy(true);
    setProblem(null);
    try {
      await api.signIn(email, password, code);
      await queries.resetQueries({ queryKey: ['session'] });
    } catch (error) {
      const told = asProblem(error);
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
        {installation.data?.hasSchool === false && (
          <p className="notice">
            {t('signIn.noSchool')} <Link to="/first-run">{t('firstRun.begin')}</Link>
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
        {installation.data?.isDemo && (
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
              onClick={() => setLanguage(code)}
            >
              {LANGUAGES[code]}
            </button>
          ))}
        </p>
      </div>
    </main>
  );
};
