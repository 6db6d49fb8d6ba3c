import { useState } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { api, asProblem } from '../shared/api/client';
import { loadProblems, problemText, useTexts } from '../shared/i18n';
import { Problem } from './Problem';

/** Asks for the mail of a forgotten password. */
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
          (error: unknown) => loadProblems().then(() => setProblem(problemText(t, asProblem(error)))),
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
