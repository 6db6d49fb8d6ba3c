import type { Calendar } from '../shared/api/client';
import { useTexts } from '../shared/i18n';
import { SheetRow } from '../shared/parts/Sheet';

const FORMS = ['ics', 'csv', 'xlsx'] as const;

/** Everything in it, in open formats: to keep, to work on, or to move house with. */
export const TakeOut = ({ calendar }: { calendar: Calendar }) => {
  const { t } = useTexts();
  return (
    <SheetRow label={t('takeOut.title')}>
      <p className="take-out">
        {FORMS.map((form) => (
          <a
            key={form}
            className="btn btn-outline-primary btn-sm"
            href={`/api/calendars/${calendar.id}/export/${form}`}
            download
          >
            {t(`takeOut.${form}`)}
          </a>
        ))}
      </p>
    </SheetRow>
  );
};
