import type { ApiProblem } from '../api/client';
import { problemText, useTexts } from '../i18n';

/** A problem that concerns the whole, as a sentence. */
export const Told = ({ problem }: { problem: ApiProblem }) => {
  const { t } = useTexts();
  return (
    <p className="notice notice-danger" role="alert">
      {problemText(t, problem)}
    </p>
  );
};
