import type { Calendar, EventData, Occurrence } from '../shared/api/client';
import { clockText, dayOf, dayRangeText, longDay } from '../shared/dates';
import { useTexts } from '../shared/i18n';
import { SheetRow } from '../shared/parts/Sheet';
import { sizeText } from '../shared/data/uploads';
import './event.scss';
import './fields/fields.scss';

interface Props {
  occurrence: Occurrence;
  calendar: Calendar | undefined;
  /** All of it that may be read; null where only the times may. */
  event: EventData | null;
}

/** An event for those who do not keep it. */
export const EventRead = ({ occurrence: o, calendar, event }: Props) => {
  const { t, language } = useTexts();
  const change = event?.changes.find((c) => c.date === o.date);
  const description = change?.description ?? event?.description ?? '';
  const facts = change?.has ?? event?.facts;
  const files = facts?.files ?? [];
  const links = facts?.links ?? [];
  const picture = event?.facts.picture;
  return (
    <div className="event-read">
      <h2 className="sheet-title">{o.title || t('entry.taken')}</h2>
      {o.subtitle && <p>{o.subtitle}</p>}
      {picture && (
        <img className="banner" src={`/api/pictures/${picture.id}/small`} alt={picture.alt} width={640} height={256} />
      )}
      <SheetRow label={t('sheet.when')}>
        <p>
          {o.firstDay === o.lastDay ? longDay(o.firstDay, language) : dayRangeText(o.firstDay, o.lastDay, language)}
          {o.allDay ? `, ${t('allDay')}` : `, ${clockText(o.start, language)}–${clockText(o.end, language)}`}
        </p>
        {o.isCalledOff && <p className="notice notice-plain">{t('sheet.calledOff')}</p>}
      </SheetRow>
      {o.place && (
        <SheetRow label={t('sheet.where')}>
          <p>{o.place}</p>
        </SheetRow>
      )}
      {description && (
        <SheetRow label={t('sheet.details')}>
          {/* The server keeps nothing but its own clean form. */}
          <div className="rich-read" dangerouslySetInnerHTML={{ __html: description }} />
        </SheetRow>
      )}
      {links.length > 0 && (
        <SheetRow label={t('facts.links')}>
          <ul className="plain-list">
            {links.map((link) => (
              <li key={link.address}>
                <a href={link.address} target="_blank" rel="noopener">
                  {link.label || link.address}
                </a>
              </li>
            ))}
          </ul>
        </SheetRow>
      )}
      {event && files.length > 0 && (
        <SheetRow label={t('files.title')}>
          <ul className="plain-list">
            {files.map((file) => (
              <li key={file.id}>
                <a href={`/api/events/${event.id}/files/${file.id}/${encodeURIComponent(file.name)}`} download>
                  {file.name}
                </a>{' '}
                <span className="quiet">{sizeText(file.size, language)}</span>
              </li>
            ))}
          </ul>
        </SheetRow>
      )}
      <p className="quiet">
        {t(o.detail === 'everything' ? 'entry.readOnly' : `entry.readLess.${o.detail}`, {
          calendar: calendar?.title ?? '',
          day: dayOf(o.date),
        })}
      </p>
    </div>
  );
};
