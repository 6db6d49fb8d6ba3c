import { useContext, useEffect, useRef, useState } from 'react';
import { copied } from './copy';
import { isOn, markOf, OutletContext, weekOf, type OutletEvent } from './model';

/** A line that opens to the event's details. */
export const EventLine = ({ event, day }: { event: OutletEvent; day?: string }) => {
  const { start, texts, words } = useContext(OutletContext);
  return (
    <li className={`entry mark-${markOf(event, start)}`}>
      <span className="spine" aria-hidden="true" />
      <details open={start.look.descriptions || undefined}>
        <summary>
          {day && <span className="on-day">{words.heading(day, start.today)} </span>}
          {!event.allDay && event.firstDay === event.lastDay && (
            <span className="time">{words.time(event.start)} </span>
          )}
          <Title event={event} />
          {event.firstDay < event.lastDay && (
            <span className="place">
              {' '}
              {words.fill(texts.untilDay, { value: words.heading(event.lastDay, start.today) })}
            </span>
          )}
          {event.place && <span className="place"> {event.place}</span>}
        </summary>
        <Details event={event} />
      </details>
    </li>
  );
};

/** A title; of a date that is called off struck through, and said; of one that changed lately, that too. */
export const Title = ({ event }: { event: OutletEvent }) => {
  const { texts } = useContext(OutletContext);
  if (event.calledOff)
    return (
      <span className="title">
        <s>{event.title}</s> <em>{texts.calledOff}</em>
      </span>
    );
  const news = event.news === 'new' ? texts.newsNew : event.news === 'moved' ? texts.newsMoved : '';
  return (
    <span className="title">
      {event.title}
      {news && <em className="news"> {news}</em>}
    </span>
  );
};

export const Details = ({ event, withTitle }: { event: OutletEvent; withTitle?: boolean }) => {
  const { start, texts, words } = useContext(OutletContext);
  const calendars = [event.calendar, ...(event.also ?? [])].map((c) => start.calendars[c]?.title).filter(Boolean);
  return (
    <div className="details">
      {withTitle && <h3>{event.title}</h3>}
      <p>
        {words.span(event)}
        {event.place && ` · ${event.place}`}
      </p>
      {event.subtitle && <p className="subtitle">{event.subtitle}</p>}
      {event.picture && (
        <img
          className="banner"
          src={event.picture.address}
          alt={event.picture.alt}
          loading="lazy"
          width="640"
          height="256"
        />
      )}
      {event.description && (
        // The server keeps nothing but its own clean form.
        <div className="description" dangerouslySetInnerHTML={{ __html: event.description }} />
      )}
      {event.links && (
        <ul className="links">
          {event.links.map((link) => (
            <li key={link.address}>
              <a href={link.address} target="_blank" rel="noopener nofollow">
                {link.label}
              </a>
            </li>
          ))}
        </ul>
      )}
      {event.files && (
        <ul className="links">
          {event.files.map((file) => (
            <li key={file.address}>
              <a href={file.address} target="_blank" rel="noopener nofollow" download>
                {file.label}
              </a>
            </li>
          ))}
        </ul>
      )}
      {!event.busy && (
        <p className="actions">
          <a href={`${start.page}/e/${event.id}`} target="_blank" rel="noopener">
            {texts.eventPage}
          </a>
          <a href={`${start.page}/e/${event.id}.ics`}>{texts.oneFile}</a>
        </p>
      )}
      <p className="from">{calendars.join(', ')}</p>
    </div>
  );
};

/** Something that opened, kept in sight, and closed by Escape. */
export const Opened = ({ onClose, children }: { onClose: () => void; children: React.ReactNode }) => {
  const { texts } = useContext(OutletContext);
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => box.current?.scrollIntoView({ block: 'nearest' }), []);
  return (
    <div
      ref={box}
      className="card"
      onKeyDown={(e) => {
        if (e.key === 'Escape') onClose();
      }}
    >
      {children}
      <button type="button" onClick={onClose}>
        {texts.close}
      </button>
    </div>
  );
};

/** An event as a line within a day's cell, which opens. */
export const CellEntry = ({
  event,
  day,
  isOpen,
  onOpen,
}: {
  event: OutletEvent;
  day: string;
  isOpen: boolean;
  onOpen: () => void;
}) => {
  const { start, words } = useContext(OutletContext);
  // At the beginning of a week it is said again what goes on.
  const goesOn = event.firstDay < day && weekOf(day, start.look.weekStart) !== day;
  const isLong = event.firstDay < event.lastDay;
  return (
    <li className={`mark-${markOf(event, start)}${goesOn ? ' goes-on' : isLong ? ' begins' : ''}`}>
      <button type="button" className="entry" aria-expanded={isOpen} onClick={onOpen}>
        <span className="spine" aria-hidden="true" />
        <span>
          {!event.allDay && event.firstDay === day && <span className="time">{words.time(event.start)} </span>}
          <Title event={event} />
        </span>
      </button>
    </li>
  );
};

export const onDay = (events: OutletEvent[], day: string): OutletEvent[] => events.filter((e) => isOn(e, day));

/** Copies an address; where a frame may not reach the clipboard it stands there to be selected. */
export const CopyLine = ({ label, address }: { label: string; address: string }) => {
  const { texts } = useContext(OutletContext);
  const field = useRef<HTMLInputElement>(null);
  const [isCopied, setCopied] = useState(false);
  const copy = async () => {
    setCopied(await copied(address));
    // What could not be copied is selected, for the reader's own keys.
    field.current?.select();
  };
  return (
    <p className="address">
      <input ref={field} readOnly value={address} aria-label={label} onFocus={(e) => e.currentTarget.select()} />
      <button type="button" onClick={() => void copy()}>
        {isCopied ? texts.copied : texts.copy}
      </button>
    </p>
  );
};

/** How to have it in one's own calendar: on this device, on a phone, elsewhere. */
export const Subscribe = ({ choice, onClose }: { choice: string; onClose: () => void }) => {
  const { start, texts } = useContext(OutletContext);
  // Beside the page its code lies, under the same link.
  const code = start.page.replace(/^[a-z]+:\/\/[^/]+/, '');
  return (
    <section className="card subscribe" aria-label={texts.subscribe}>
      <div className="ways">
        <div>
          {choice && <p className="chosen">{texts.subscribeChosen}</p>}
          <p>{texts.subscribeHow}</p>
          <p className="actions">
            <a className="strong" href={`${start.webcal}${choice}`}>
              {texts.subscribeOpen}
            </a>
          </p>
          <h3>{texts.wayWeb}</h3>
          <p>{texts.wayWebHow}</p>
          <CopyLine label={texts.copy} address={`${start.feed}${choice}`} />
          <h3>{texts.wayOnce}</h3>
          <p>
            {texts.wayOnceHow} <a href={`${code}/snapshot.ics`}>{texts.download}</a>
          </p>
        </div>
        <div className="way-phone" hidden={choice !== ''}>
          <h3>{texts.wayPhone}</h3>
          <img src={`${code}/qr.svg`} alt={texts.codeAlt} width="150" height="150" />
          <p>{texts.wayPhoneHow}</p>
        </div>
      </div>
      <button type="button" onClick={onClose}>
        {texts.close}
      </button>
    </section>
  );
};
