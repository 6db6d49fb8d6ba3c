import { createContext, use, useCallback, useEffect, useMemo, useRef, useState, type ReactNode } from 'react';
import Button from 'react-bootstrap/Button';
import { Link } from 'react-router';
import { api, ApiProblem, asProblem } from '../api/client';
import { problemText, useTexts } from '../i18n';
import { ofOwn } from './bringIn';

interface Step {
  /** What was done, as a sentence; nothing is told without one. */
  text: string;
  /** The step on the server; it takes it back and does it again. */
  step?: string | undefined;
  /** Where what was done lies, when it is not in sight. */
  lead?: { text: string; to: string } | undefined;
  /** For what the server has no step of. */
  undo?: () => Promise<unknown>;
}

interface Undo {
  done: (step: Step) => void;
  undoLast: () => void;
  redoLast: () => void;
  /** Says that something is being done: what is undone meanwhile is undone after it. */
  during: <T>(work: Promise<T>) => Promise<T>;
  /** Tells something that leaves nothing to undo. */
  tell: (text: string) => void;
  /** Grows with each undo and redo: what holds a state of its own looks anew. */
  turn: number;
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
  /** Shows what was undone or done again, by the server's answer. */
  refresh: (answer: unknown) => Promise<unknown>;
}

/**
 * Keeps the steps that can be undone, tells of the last one, and listens for Ctrl+Z and Ctrl+Shift+Z. What this page does not
 * know of any more, after a reload, the server does.
 */
export const UndoProvider = ({ children, refresh }: ProviderProps) => {
  const { t } = useTexts();
  const steps = useRef<Step[]>([]);
  const undone = useRef<Step[]>([]);
  const doing = useRef(new Set<Promise<unknown>>());
  const last = useRef<Promise<unknown>>(Promise.resolve());
  const [turn, setTurn] = useState(0);
  const [told, setTold] = useState<{ text: string; offers?: 'undo' | 'redo'; lead?: Step['lead'] } | null>(null);

  const done = useCallback((step: Step) => {
    if (!step.step && !step.undo) {
      if (step.text) setTold({ text: step.text, lead: step.lead });
      return;
    }
    // Pressed twice, done once.
    if (step.step && steps.current.at(-1)?.step === step.step) return;
    steps.current = [...steps.current, step].slice(-MAX_STEPS);
    undone.current = [];
    if (step.text) setTold({ text: step.text, offers: 'undo', lead: step.lead });
  }, []);

  const during = useCallback(<T,>(work: Promise<T>): Promise<T> => {
    doing.current.add(work);
    const over = () => doing.current.delete(work);
    work.then(over, over);
    return work;
  }, []);

  const goNow = useCallback(
    async (isRedo: boolean) => {
      const [from, to] = isRedo ? [undone, steps] : [steps, undone];
      const step = from.current.pop();
      try {
        const back = step?.undo ?? (() => (isRedo ? api.redo(step?.step) : api.undo(step?.step)));
        await refresh(await ofOwn(back()));
        // What has a way of its own back has none forward.
        if (step && !step.undo) to.current.push(step);
        setTurn((n) => n + 1);
        const canRedo = !isRedo && !step?.undo;
        setTold({ text: t(isRedo ? 'undo.redone' : 'undo.undone'), ...(canRedo && { offers: 'redo' }) });
      } catch (error) {
        // It stays where it was: the connection may come back.
        if (step) from.current.push(step);
        setTold({ text: problemText(t, asProblem(error)), ...(step && { offers: isRedo ? 'redo' : 'undo' }) });
      }
    },
    [t, refresh],
  );
  // One after the other, and after what was begun before: the last thing a person did is the first that is taken back.
  const go = useCallback(
    (isRedo: boolean) => {
      last.current = Promise.allSettled([last.current, ...doing.current]).then(() => goNow(isRedo));
    },
    [goNow],
  );
  const undoLast = useCallback(() => go(false), [go]);
  const redoLast = useCallback(() => go(true), [go]);

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (!(e.ctrlKey || e.metaKey) || isTyping(e.target)) return;
      const key = e.key.toLowerCase();
      const isRedo = (key === 'z' && e.shiftKey) || (key === 'y' && !e.shiftKey);
      if (!isRedo && key !== 'z') return;
      e.preventDefault();
      go(isRedo);
    };
    addEventListener('keydown', onKey);
    return () => removeEventListener('keydown', onKey);
  }, [go]);

  // What was refused and nobody else tells of is told here: nothing fails in silence.
  useEffect(() => {
    const onRefused = (e: PromiseRejectionEvent) => {
      if (!(e.reason instanceof ApiProblem)) return;
      e.preventDefault();
      setTold({ text: problemText(t, e.reason) });
    };
    addEventListener('unhandledrejection', onRefused);
    return () => removeEventListener('unhandledrejection', onRefused);
  }, [t]);

  useEffect(() => {
    if (!told) return;
    const timer = setTimeout(() => setTold(null), SHOWN_MS);
    return () => clearTimeout(timer);
  }, [told]);

  const tell = useCallback((text: string) => setTold({ text }), []);
  const value = useMemo(
    () => ({ done, undoLast, redoLast, during, tell, turn }),
    [done, undoLast, redoLast, during, tell, turn],
  );
  return (
    <Context value={value}>
      {children}
      <div className="told-place" role="status">
        {told && (
          <div className="told">
            <span>{told.text}</span>
            {told.lead && (
              <Link to={told.lead.to} onClick={() => setTold({ ...told, lead: undefined })}>
                {told.lead.text}
              </Link>
            )}
            {told.offers && (
              <Button variant="link" onClick={told.offers === 'undo' ? undoLast : redoLast}>
                {t(`undo.${told.offers}`)}
              </Button>
            )}
          </div>
        )}
      </div>
    </Context>
  );
};
