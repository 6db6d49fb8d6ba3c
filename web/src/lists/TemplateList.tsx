import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { api, type Template } from '../shared/api/client';
import { problemText, useTexts } from '../shared/i18n';
import { useUndo } from '../shared/data/undo';
import { useTemplates } from '../event/TemplateTools';
import { useInTurn } from '../shared/useInTurn';

/** The school's templates: their names, and what they make. */
export const TemplateList = () => {
  const { t } = useTexts();
  const templates = useTemplates();
  if (templates.length === 0) return <p className="quiet">{t('templates.none')}</p>;
  return (
    <ul className="templates">
      {templates.map((one) => (
        <TemplateRow key={one.id} template={one} />
      ))}
    </ul>
  );
};

const TemplateRow = ({ template }: { template: Template }) => {
  const { t } = useTexts();
  const queries = useQueryClient();
  const { done } = useUndo();
  const [name, setName] = useState(template.name);
  const { run: inTurn, problem } = useInTurn();
  const run = (work: () => Promise<unknown>) =>
    inTurn(async () => {
      await work();
      await queries.invalidateQueries({ queryKey: ['templates'] });
    });
  return (
    <li>
      <Form.Control
        size="sm"
        aria-label={t('templates.name')}
        value={name}
        maxLength={100}
        isInvalid={problem !== null}
        onChange={(e) => setName(e.target.value)}
        onBlur={() => {
          if (name.trim() && name !== template.name)
            void run(() => api.changeTemplate(template.id, { name, event: template.event }));
        }}
      />
      <span className="quiet">{[template.event.title, template.event.place].filter(Boolean).join(', ')}</span>
      <Button
        variant="link"
        size="sm"
        aria-label={t('lists.remove', { name: template.name })}
        onClick={() =>
          void run(async () => {
            await api.removeTemplate(template.id);
            done({
              text: t('templates.removed', { name: template.name }),
              undo: async () => {
                await api.addTemplate({ name: template.name, event: template.event });
                await queries.invalidateQueries({ queryKey: ['templates'] });
              },
            });
          })
        }
      >
        {t('facts.takeOutShort')}
      </Button>
      {problem && (
        <p className="field-problem" role="alert">
          {problemText(t, problem)}
        </p>
      )}
    </li>
  );
};
