import { useLayoutEffect, useRef, type ReactNode } from 'react';
import { useTexts } from '../i18n';
import { useFocusBack } from '../useFocusBack';
import { markClass, Spine } from './Spine';

interface Props {
  label: string;
  /** What stands above: the calendar the thing belongs to, always in sight. */
  head: ReactNode;
  mark: number | null;
  onClose: () => void;
  children: ReactNode;
}

/** The right-hand part: what is chosen, read and changed in place. */
export const Sheet = ({ label, head, mark, onClose, children }: Props) => {
  const { t } = useTexts();
  const sheet = useRef<HTMLElement>(null);
  const remember = useFocusBack();
  useLayoutEffect(() => {
    const element = sheet.current;
    // A field of it may have the focus already.
    if (!element || element.contains(document.activeElement)) return;
    remember(element);
    element.focus({ preventScroll: true });
    // Once, when it is opened.
  }, []); // oxlint-disable-line react/exhaustive-deps
  return (
    <aside className="sheet" aria-label={label} ref={sheet} tabIndex={-1}>
      <div className={`sheet-head ${mark ? markClass(mark) : ''}`}>
        {mark && <Spine />}
        <span className="sheet-where">{head}</span>
        <button type="button" className="btn btn-link p-0" onClick={onClose}>
          {t('close')}
        </button>
      </div>
      {children}
    </aside>
  );
};

export const SheetRow = ({ label, children }: { label: string; children: ReactNode }) => (
  <section className="sheet-row" aria-label={label}>
    <h3>{label}</h3>
    <div>{children}</div>
  </section>
);
