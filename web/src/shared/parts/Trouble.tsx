import Button from 'react-bootstrap/Button';
import type { ApiProblem } from '../api/client';
import { problemText, useTexts } from '../i18n';

/** What stands where a screen should, and the way back. */
export const Trouble = ({ problem, onAgain }: { problem: ApiProblem; onAgain: () => void }) => {
  const { t } = useTexts();
  return (
    <div className="loading" role="alert">
      <p>{problemText(t, problem)}</p>
      <Button onClick={onAgain}>{t('tryAgain')}</Button>
    </div>
  );
};
