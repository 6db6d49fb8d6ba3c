import type { Source } from '../shared/api/client';
import { agoText as ago, formatMoment } from '../shared/dates';
import { problemText, useTexts } from '../shared/i18n';
import { ApiProblem } from '../shared/api/client';

/** The state of a source in words: when it was read, what that changed, when it is read next, and what is the matter. */
export const useStateText = () => {
  const { t, language } = useTexts();
  const moment = (at: string) => formatMoment(at, language);
  return (source: Source): { lines: string[]; isWell: boolean } => {
    const problem = source.problem && problemText(t, new ApiProblem(0, source.problem, source.problem));
    const last = source.lastChange;
    const changed =
      last &&
      [
        last.added > 0 && t('source.added', { count: last.added }),
        last.changed > 0 && t('source.changed', { count: last.changed }),
        last.gone > 0 && t('source.went', { count: last.gone }),
        last.kept > 0 && t('source.kept', { count: last.kept }),
      ]
        .filter(Boolean)
        .join(', ');
    return {
      isWell: !problem,
      lines: [
        problem && t('source.failing', { problem, since: moment(source.failingSince ?? source.readAt ?? '') }),
        source.readAt ? t('source.readAt', { at: ago(source.readAt, language) }) : t('source.notYet'),
        last && changed && t('source.lastChange', { at: moment(last.at), what: changed }),
        source.nextAt && t('source.nextAt', { at: moment(source.nextAt) }),
      ].filter((line): line is string => !!line),
    };
  };
};
