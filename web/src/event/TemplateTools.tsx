import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { api, asProblem } from '../shared/api/client';
import { addDays, daysBetween } from '../shared/dates';
import { problemText, useTexts } from '../shared/i18n';
import { useUndo } from '../shared/data/undo';
import { draftOf, inputOfDraft, type EventDraft } from './draft/draft';
import './fields/fields.scss';

export const useTemplates = () =>
  useQuery({ queryKey: ['templates'], queryFn: api.templates, staleTime: 60_000 }).data ?? [];

/** A template on the day and in the calendar of a draft; what was typed already stays. */
export const fromTemplate = (draft: EventDraft, template: EventDraft): EventDraft => ({
  ...template,
  // Where it is started decides, and never the template.
  calendarId: draft.calendarId,
  title: draft.title || template.title,
  place: draft.place || template.place,
  firstDay: draft.firstDay,
  lastDay: addDays(draft.firstDay, daysBetween(template.firstDay, template.lastDay)),
  facts: { ...template.facts, alsoIn: template.facts.alsoIn.filter((id) => id !== draft.calendarId) },
});

/** Starts a new event from one of the school's templates. */
export const StartFrom = ({ draft, onDraft }: { draft: EventDraft; onDraft: (draft: EventDraft) => void }) => {
  const { t } = useTexts();
  const templates = useTemplates();
  if (templates.length === 0) return null;
  return (
    <Form.Select
      size="sm"
      className="start-from"
      aria-label={t('templates.startFrom')}
      value=""
      onChange={(e) => {
        const one = templates.find((other) => other.id === e.target.value);
        if (one) onDraft(fromTemplate(draft, draftOf(one.event)));
      }}
    >
      <option value="">{t('templates.startFrom')}</option>
      {templates.map((one) => (
        <option key={one.id} value={one.id}>
          {one.name}
        </option>
      ))}
    </Form.Select>
  );
};

/** Keeps an event as a template, under a name. */
export const KeepAsTemplate = ({ draft }: { draft: EventDraft }) => {
  const { t } = useTexts();
  const queries = useQueryClient();
  const { tell } = useUndo();
  const [name, setName] = useState<string | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  if (name === null)
    return (
      <Button variant="link" size="sm" onClick={() => setName(draft.title)}>
        {t('templates.keep')}
      </Button>
    );
  const keep = async () => {
    try {
      const made = await api.addTemplate({ name, event: inputOfDraft(draft, null) });
      await queries.invalidateQueries({ queryKey: ['templates'] });
      setName(null);
      tell(t('templates.kept', { name: made.name }));
    } catch (error) {
      setProblem(problemText(t, asProblem(error)));
    }
  };
  return (
    <div className="keep-template">
      <Form.Control
        size="sm"
        autoFocus
        aria-label={t('templates.name')}
        value={name}
        maxLength={100}
        isInvalid={problem !== null}
        onChange={(e) => {
          setName(e.target.value);
          setProblem(null);
        }}
        onKeyDown={(e) => {
          if (e.key === 'Enter') void keep();
          else if (e.key === 'Escape') setName(null);
          else return;
          e.preventDefault();
          e.stopPropagation();
        }}
      />
      <Button size="sm" variant="outline-primary" onClick={() => void keep()}>
        {t('templates.keepIt')}
      </Button>
      {problem && (
        <p className="field-problem" role="alert">
          {problem}
        </p>
      )}
    </div>
  );
};
