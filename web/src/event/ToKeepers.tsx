import Form from 'react-bootstrap/Form';
import type { Calendar } from '../shared/api/client';
import type { Asked } from '../shared/data/rights';
import { useTexts } from '../shared/i18n';
import { SheetRow } from '../shared/parts/Sheet';

interface Props {
  /** The calendars whose keepers are asked. */
  asked: Asked;
  calendars: Calendar[];
  remark: string;
  onRemark: (remark: string) => void;
}

/** Says who is asked before it is so, and takes a word for them. */
export const ToKeepers = ({ asked, calendars, remark, onRemark }: Props) => {
  const { t } = useTexts();
  return (
    <SheetRow label={t('proposal.toKeepers')}>
      {asked.length > 0 && (
        <p className="quiet">
          {t('proposal.willAsk', {
            calendars: asked
              .map(({ calendarId, keepers }) => {
                const title = calendars.find((c) => c.id === calendarId)?.title ?? '';
                return keepers.length > 0 ? `${title} (${keepers.join(', ')})` : title;
              })
              .join(', '),
          })}
        </p>
      )}
      <Form.Control
        as="textarea"
        rows={2}
        aria-label={t('proposal.remark')}
        placeholder={t('proposal.remark')}
        value={remark}
        maxLength={500}
        onChange={(e) => onRemark(e.target.value)}
      />
    </SheetRow>
  );
};
