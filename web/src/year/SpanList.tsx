import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useState, type ReactNode } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { api, type ApiProblem } from '../shared/api/client';
import { DateField } from '../shared/parts/DateField';
import { addDays, dayRangeText, daysBetween } from '../shared/dates';
import { FieldProblem } from '../shared/parts/FieldProblem';
import { problemText, useTexts } from '../shared/i18n';
import type { DaySpan, NamedSpan } from './yearDraft';

interface Props<T extends NamedSpan> {
  /** What the problem's fields call the list. */
  field: string;
  label: string;
  empty: string;
  /** What one is asked to type, as an example. */
  example: string;
  year: DaySpan;
  /** One that was typed, as it stands in the list. */
  make: (span: NamedSpan) => T;
  spans: T[];
  problem: ApiProblem | null;
  onSpans: (spans: T[]) => void;
  onShow: (span: DaySpan) => void;
  /** What a span has beside its name and days. */
  more?: (span: T, onChange: (span: T) => void) => ReactNode;
}

/** Named spans of days, edited in place. */
export const SpanList = <T extends NamedSpan>({
  field,
  label,
  empty,
  example,
  year,
  make,
  spans,
  problem,
  onSpans,
  onShow,
  more,
}: Props<T>) => {
  const { t } = useTexts();
  const set = (at: number, span: T) => onSpans(spans.map((old, i) => (i === at ? span : old)));
  return (
    <section aria-label={label} className="year-part">
      <h2>{label}</h2>
      {spans.length === 0 && <p className="quiet">{empty}</p>}
      <ul className="span-list">
        {spans.map((span, i) => {
          const wrong = problem?.field?.startsWith(`${field}.${i}.`) ? problemText(t, problem) : null;
          return (
            <li key={i} aria-label={span.name} onFocus={() => onShow(span)}>
              <Form.Control
                size="sm"
                className="span-name"
                aria-label={t('year.name')}
                value={span.name}
                isInvalid={wrong !== null && problem?.field?.endsWith('.name')}
                onChange={(e) => set(i, { ...span, name: e.target.value })}
              />
              <Button
                variant="link"
                size="sm"
                aria-label={t('year.remove', { name: span.name })}
                onClick={() => onSpans(spans.filter((_, other) => other !== i))}
              >
                {t('year.removeShort')}
              </Button>
              <DateField
                label={t('year.firstDay')}
                value={span.first}
                onChange={(first) => set(i, { ...span, first, last: span.last < first ? first : span.last })}
              />
              <DateField
                label={t('year.lastDay')}
                value={span.last}
                isInvalid={wrong !== null && !problem?.field?.endsWith('.name')}
                onChange={(last) => set(i, { ...span, last })}
              />
              {more?.(span, (changed) => set(i, changed))}
              <FieldProblem text={wrong} />
            </li>
          );
        })}
      </ul>
      <TypedSpan
        label={t('year.typeOne', { list: label })}
        example={example}
        year={year}
        onSpan={(span) => onSpans([...spans, make(span)].sort((a, b) => a.first.localeCompare(b.first)))}
      />
    </section>
  );
};

interface TypedProps {
  label: string;
  example: string;
  year: DaySpan;
  onSpan: (span: NamedSpan) => void;
}

/** A line that makes one: its name and its days. */
const TypedSpan = ({ label, example, year, onSpan }: TypedProps) => {
  const { t, language } = useTexts();
  const [text, setText] = useState('');
  const [asked, setAsked] = useState(false);
  // Without a year's number the day in this school year is meant.
  const near = addDays(year.first, Math.floor(daysBetween(year.first, year.last) / 2));
  const reading = useQuery({
    queryKey: ['typed', text, near, language],
    queryFn: () => api.typed(text, near, language),
    enabled: text.trim() !== '',
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  });
  const read = text.trim() ? (reading.data?.span ?? null) : null;
  const good = read !== null && read.name !== '' && !reading.isPlaceholderData;
  const add = async () => {
    const { span } = await api.typed(text, near, language);
    setAsked(!span?.name);
    if (!span?.name) return;
    onSpan(span);
    setText('');
  };
  return (
    <div className="typed-span">
      <Form.Control
        size="sm"
        aria-label={label}
        placeholder={example}
        value={text}
        isInvalid={asked && !good}
        onChange={(e) => {
          setText(e.target.value);
          setAsked(false);
        }}
        onKeyDown={(e) => {
          if (e.key !== 'Enter') return;
          e.preventDefault();
          void add();
        }}
      />
      <Button size="sm" variant="outline-primary" disabled={!text.trim()} onClick={() => void add()}>
        {t('year.addTyped')}
      </Button>
      {read && (
        <p className="quiet typed-read">
          {read.name || t('line.noTitle')} · {dayRangeText(read.first, read.last, language)}
        </p>
      )}
      {asked && !good && <FieldProblem text={t('year.notRead', { example })} />}
    </div>
  );
};
