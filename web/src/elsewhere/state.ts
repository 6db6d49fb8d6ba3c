import type { Source } from '../shared/api/client';
import { formatMoment } from '../shared/dates';
import { problemText, useTexts } from '../shared/i18n';
import { ApiProblem } from '../shared/api/client';

const MINUTE = 60_000;

/** How long ago: in minutes or hours, further back as a moment. */
const ago = (at: string, language: string): string => {
  const minutes = Math.round((Date.now() - Date.parse(at)) / MINUTE);
  const told = new Intl.RelativeTimeFormat(language, { numeric: 'auto' });
  if (minutes < 60) return told.format(-Math.max(0, minutes), 'minute');
  return minutes < 24 * 60 ? told.format(-Math.round(minutes / 60), 'hour') : formatMoment(at, language);
};

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
