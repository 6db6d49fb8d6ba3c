import { useEffect, useState } from 'react';
import { useTexts } from '../shared/i18n';
import { isTyping } from '../shared/data/undo';

const KEYS = [
  ['arrows', 'cells'],
  ['enter', 'type'],
  ['altArrows', 'move'],
  ['altShiftArrows', 'longer'],
  ['copyPaste', 'copy'],
  ['d', 'duplicate'],
  ['altUpDown', 'rows'],
  ['escape', 'close'],
  ['undo', 'undo'],
  ['redo', 'redo'],
  ['question', 'keys'],
] as const;

/** The keys of the board; ? opens and closes it, never while something is typed. */
export const KeysPanel = () => {
  const { t } = useTexts();
  const [open, setOpen] = useState(false);
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (e.key === '?' && !isTyping(e.target) && !e.ctrlKey && !e.metaKey) setOpen((now) => !now);
      else if (e.key === 'Escape' && open) {
        e.preventDefault();
        setOpen(false);
      }
    };
    addEventListener('keydown', onKey, true);
    return () => removeEventListener('keydown', onKey, true);
  }, [open]);
  if (!open) return null;
  return (
    <aside className="keys-panel" aria-label={t('keys.title')}>
      <div className="keys-head">
        <h2>{t('keys.title')}</h2>
        <button type="button" className="btn btn-link p-0" onClick={() => setOpen(false)}>
          {t('close')}
        </button>
      </div>
      <dl>
        {KEYS.map(([key, what]) => (
          <div key={key}>
            <dt>{t(`keys.key.${key}`)}</dt>
            <dd>{t(`keys.does.${what}`)}</dd>
          </div>
        ))}
      </dl>
    </aside>
  );
};
