import { createContext, use, useCallback, useEffect, useMemo, useRef, useState, type ReactNode } from 'react';
import { Button } from 'react-bootstrap';
import { asProblem } from './api/client';
import { problemText, useTexts } from './i18n';

interface Step {
  /** What was done, as a sentence. */
  text: string;
  undo: () => Promise<unknown>;
}

interface Undo {
  done: (step: Step) => void;
  undoLast: () => void;
  /** Tells something that leaves nothing to undo. */
  tell: (text: string) => void;
}

const Context = createContext<Undo | null>(null);
const SHOWN_MS = 12_000;
const MAX_STEPS = 50;

export const useUndo = (): Undo => {
  const undo = use(Context);
  if (!undo) throw new Error('useUndo needs an UndoProvider.');
  return undo;
};

/** Whether keys go into a field. */
export const isTyping = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName));

interface ProviderProps {
  children: ReactNode;
  /** Undoes what was done before this page was opened. */
  undoOlder?: () => Promise<unknown>;
}

/** Keeps the steps that can be undone, tells of the last one, and listens for Ctrl+Z. */
export const UndoProvider = ({ children, undoOlder }: ProviderProps) => {
  const { t } = useTexts();
  const steps = useRef<Step[]>([]);
  const fallback = useRef<Step | null>(null);
  useEffect(() => {
    fallback.current = undoOlder ? { text: '', undo: undoOlder } : null;
  }, [undoOlder]);
  const [told, setTold] = useState<{ text: string; canUndo: boolean } | null>(null);

  const done = useCallback((step: Step) => {
    steps.current = [...steps.current, step].slice(-MAX_STEPS);
    setTold({ text: step.text, canUndo: true });
  }, []);

  const undoLast = useCallback(() => {
    // What this page does not know of any more, after a reload, the server does.
    const step = steps.current.pop() ?? fallback.current;
    if (!step) return;
    step.undo().then(
      () => setTold({ text: t('undo.undone'), canUndo: false }),
      (error: unknown) => {
        // It stays undoable: the connection may come back.
        if (step !== fallback.current) steps.current.push(step);
        setTold({ text: problemText(t, asProblem(error)), canUndo: step !== fallback.current });
      },
    );
  }, [t]);

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if ((e.ctrlKey || e.metaKey) && !e.shiftKey && e.key.toLowerCase() === 'z' && !isTyping(e.target)) {
        e.preventDefault();
        undoLast();
      }
    };
    addEventListener('keydown', onKey);
    return () => removeEventListener('keydown', onKey);
  }, [undoLast]);

  useEffect(() => {
    if (!told) return;
    const timer = setTimeout(() => setTold(null), SHOWN_MS);
    return () => clearTimeout(timer);
  }, [told]);

  const tell = useCallback((text: string) => setTold({ text, canUndo: false }), []);
  const value = useMemo(() => ({ done, undoLast, tell }), [done, undoLast, tell]);
  return (
    <Context value={value}>
      {children}
      <div className="told-place" role="status">
        {told && (
          <div className="told">
            <span>{told.text}</span>
            {told.canUndo && (
              <Button variant="link" onClick={undoLast}>
                {t('undo.undo')}
              </Button>
            )}
          </div>
        )}
      </div>
    </Context>
  );
};
