import { useQuery, useQueryClient } from '@tanstack/react-query';
import {
  useEffect,
  useEffectEvent,
  useId,
  useImperativeHandle,
  useRef,
  useState,
  type KeyboardEvent,
  type RefObject,
} from 'react';
import Form from 'react-bootstrap/Form';
import { flushSync } from 'react-dom';
import { api } from '../api/client';
import { addDays, addMinutes, at, clockOf, clockText, formatDay, type Day } from '../dates';
import { useTexts } from '../i18n';
import './fields.scss';

type Read = Awaited<ReturnType<typeof api.typed>>;

interface TypedProps<T> {
  label: string;
  value: T;
  isInvalid?: boolean;
  onChange: (value: T) => void;
  /** For what is done with it outside a form: gives what the field means once what is typed was read; null where it cannot be. */
  reader?: RefObject<Reader<T> | null>;
}

export type Reader<T> = () => Promise<T | null>;

interface FieldProps<T> extends TypedProps<T> {
  className: string;
  /** The day that is meant where none is said in full. */
  near: Day;
  write: (value: T) => string;
  pick: (read: Read) => T | null;
  step: (value: T, by: number) => T;
}

const typedQuery = (text: string, near: Day, language: string) => ({
  queryKey: ['typed', text, near, language],
  queryFn: () => api.typed(text, near, language),
  staleTime: Infinity,
});

/**
 * A field that is typed as people write it and says back what was understood; arrow keys step. It is read where all typed
 * dates are read, so a form is sent only once the answer is there.
 */
const TypedField = <T extends string>({
  label,
  value,
  isInvalid,
  onChange,
  reader,
  className,
  near,
  write,
  pick,
  step,
}: FieldProps<T>) => {
  const { t, language } = useTexts();
  const queries = useQueryClient();
  const saidId = useId();
  const [typed, setTyped] = useState<string | null>(null);
  const field = useRef<HTMLInputElement>(null);
  const isTyped = typed !== null && typed !== write(value);
  const reading = useQuery({ ...typedQuery(typed ?? '', near, language), enabled: isTyped });
  const wrong = isTyped && reading.data !== undefined && pick(reading.data) === null;
  // What cannot be read, or not now, is told in words beside the field; what is typed stays.
  const said = wrong ? t('typed.unread') : isTyped && reading.error ? t('typed.away') : null;

  // The answer comes when other fields may hold something else than they did when it was asked for.
  const latest = useRef({ value, onChange });
  useEffect(() => {
    latest.current = { value, onChange };
  });

  /** Takes what is typed, and gives it; null where it is none. */
  const settle = async (): Promise<T | null> => {
    if (typed === null) return value;
    if (typed === write(value)) {
      setTyped(null);
      return value;
    }
    const read = await queries.query({ ...typedQuery(typed, near, language), retry: false }).catch(() => null);
    const next = read && pick(read);
    if (!next) return null;
    // At once, so that a form that is sent next is sent with it.
    flushSync(() => {
      // What was typed on meanwhile is read next.
      setTyped((now) => (now === typed ? null : now));
      if (next !== latest.current.value) latest.current.onChange(next);
    });
    return next;
  };
  useImperativeHandle(reader, () => settle);

  // What is in the field goes along when the form is sent, by whatever key or button.
  const hold = useEffectEvent((e: SubmitEvent) => {
    if (!isTyped) return;
    e.preventDefault();
    e.stopImmediatePropagation();
    const form = e.currentTarget as HTMLFormElement;
    const by = e.submitter;
    // An answer that is there already comes before this event is over, and a form in the midst of one sends nothing.
    const send = () => {
      form.requestSubmit(by?.isConnected ? by : null);
    };
    void settle().then((read) => read !== null && setTimeout(send));
  });
  useEffect(() => {
    const form = field.current?.form;
    const onSubmit = (e: SubmitEvent) => hold(e);
    form?.addEventListener('submit', onSubmit, true);
    return () => form?.removeEventListener('submit', onSubmit, true);
  }, []);

  const key = (e: KeyboardEvent) => {
    const by = e.key === 'ArrowUp' ? 1 : e.key === 'ArrowDown' ? -1 : 0;
    if (by !== 0) {
      e.preventDefault();
      setTyped(null);
      onChange(step((isTyped && reading.data && pick(reading.data)) || value, by));
    } else if (e.key === 'Enter' && !field.current?.form) {
      void settle();
    }
  };
  return (
    <>
      <Form.Control
        ref={field}
        className={className}
        aria-label={label}
        aria-invalid={said !== null || isInvalid}
        aria-describedby={said === null ? undefined : saidId}
        isInvalid={said !== null || isInvalid}
        value={typed ?? write(value)}
        onFocus={(e) => e.currentTarget.select()}
        onChange={(e) => setTyped(e.target.value)}
        onBlur={() => void settle()}
        onKeyDown={key}
      />
      {said !== null && (
        <span id={saidId} className="field-said" role="status">
          {said}
        </span>
      )}
    </>
  );
};

/** A date: "Thu 10 Sep 2026"; takes "12 may", "fri", "tomorrow", "2026-05-12". */
export const DateField = (props: TypedProps<Day>) => {
  const { language } = useTexts();
  return (
    <TypedField
      {...props}
      className="date-field"
      near={props.value}
      write={(day) =>
        formatDay(day, language, { weekday: 'short', day: 'numeric', month: 'short', year: 'numeric' }).replace(',', '')
      }
      pick={(read) => read.day}
      step={addDays}
    />
  );
};

const SOME_DAY: Day = '2024-01-01';

/** A time of day as "09:30"; shown and typed as the language writes it. */
export const TimeField = (props: TypedProps<string>) => {
  const { language } = useTexts();
  return (
    <TypedField
      {...props}
      className="time-field"
      near={SOME_DAY}
      write={(clock) => clockText(at(SOME_DAY, clock), language)}
      pick={(read) => read.clock}
      step={(clock, by) => clockOf(addMinutes(at(SOME_DAY, clock), by * 15))}
    />
  );
};
