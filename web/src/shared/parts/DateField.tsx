import { useState, type KeyboardEvent } from 'react';
import Form from 'react-bootstrap/Form';
import { addDays, addMinutes, at, clockOf, clockText, formatDay, parseClock, parseDay, type Day } from '../dates';
import { useTexts } from '../i18n';

interface TypedProps<T> {
  label: string;
  value: T;
  isInvalid?: boolean;
  onChange: (value: T) => void;
}

interface FieldProps<T> extends TypedProps<T> {
  className: string;
  write: (value: T) => string;
  read: (text: string) => T | null;
  step: (value: T, by: number) => T;
}

/** A field that is typed as people write it and says back what it understood; arrow keys step. */
const TypedField = <T extends string>({
  label,
  value,
  isInvalid,
  onChange,
  className,
  write,
  read,
  step,
}: FieldProps<T>) => {
  const [typed, setTyped] = useState<string | null>(null);
  const wrong = typed !== null && read(typed) === null;
  const settle = () => {
    if (typed === null || wrong) return;
    const next = read(typed);
    setTyped(null);
    if (next && next !== value) onChange(next);
  };
  const key = (e: KeyboardEvent) => {
    const by = e.key === 'ArrowUp' ? 1 : e.key === 'ArrowDown' ? -1 : 0;
    if (by !== 0) {
      e.preventDefault();
      setTyped(null);
      onChange(step((typed !== null && read(typed)) || value, by));
    } else if (e.key === 'Enter') {
      // Enter saves the form; what is in the field goes along.
      settle();
    }
  };
  return (
    <Form.Control
      className={className}
      aria-label={label}
      aria-invalid={wrong || isInvalid}
      isInvalid={wrong || isInvalid}
      value={typed ?? write(value)}
      onFocus={(e) => e.currentTarget.select()}
      onChange={(e) => setTyped(e.target.value)}
      onBlur={settle}
      onKeyDown={key}
    />
  );
};

/** A date: "Thu 10 Sep 2026"; takes "12 may", "tomorrow", "2026-05-12". */
export const DateField = (props: TypedProps<Day>) => {
  const { language } = useTexts();
  return (
    <TypedField
      {...props}
      className="date-field"
      write={(day) =>
        formatDay(day, language, { weekday: 'short', day: 'numeric', month: 'short', year: 'numeric' }).replace(',', '')
      }
      read={(text) =>
        // What the field itself wrote is read back, weekday and all.
        parseDay(
          text.replace(/^\s*\p{L}+\.?,?\s+(?=\d)/u, ''),
          props.value,
          new Date().toISOString().slice(0, 10),
          () => null,
        )
      }
      step={addDays}
    />
  );
};

/** A time of day as "09:30"; shown and typed as the language writes it. */
export const TimeField = (props: TypedProps<string>) => {
  const { language } = useTexts();
  const some = '2024-01-01';
  return (
    <TypedField
      {...props}
      className="time-field"
      write={(clock) => clockText(at(some, clock), language)}
      read={parseClock}
      step={(clock, by) => clockOf(addMinutes(at(some, clock), by * 15))}
    />
  );
};
