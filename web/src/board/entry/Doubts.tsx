import type { Line } from '../../shared/api/client';
import { useMeanings } from '../../shared/data/useMeanings';
import { useUndo } from '../../shared/data/undo';
import { useTexts } from '../../shared/i18n';

type Doubt = Line['doubts'][number];

interface Props {
  /** The text the line was read from. */
  text: string;
  line: Line;
  /** The line with what was chosen. */
  onText: (text: string) => void;
}

/** The parts of a line that may be something else, each with what that is: one press chooses it. */
export const Doubts = ({ text, line, onText }: Props) => {
  const { t } = useTexts();
  const { keep } = useMeanings();
  const { tell } = useUndo();
  const choose = async (doubt: Doubt, meant: string) => {
    const part = text.slice(doubt.start, doubt.start + doubt.length);
    // A part that is title stands as it is, and is known by what was kept.
    onText(meant === '' ? text : text.slice(0, doubt.start) + meant + text.slice(doubt.start + doubt.length));
    if (doubt.key === null) return;
    await keep(doubt.key, meant);
    tell(t('line.kept', { text: part }));
  };
  if (line.doubts.length === 0) return null;
  return (
    <ul className="line-doubts" aria-label={t('line.inDoubt')}>
      {line.doubts.map((doubt) => (
        <li key={`${doubt.kind} ${doubt.start}`}>
          <span>
            <strong aria-hidden="true">? </strong>
            {t(`line.doubt.${doubt.kind}`, { text: text.slice(doubt.start, doubt.start + doubt.length) })}
          </span>
          {doubt.rivals.map((rival) => (
            <button key={rival} type="button" onClick={() => void choose(doubt, rival)}>
              {rival || t('line.asTitle')}
            </button>
          ))}
          {doubt.asRead !== null && doubt.key !== null && (
            <button type="button" onClick={() => void choose(doubt, doubt.asRead ?? '')}>
              {t('line.yes', { text: doubt.asRead })}
            </button>
          )}
        </li>
      ))}
    </ul>
  );
};
