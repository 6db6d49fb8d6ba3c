import { useContext, useEffect, useLayoutEffect, useRef, useState } from 'react';
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
          {event.place && (
            <span className="place">
              {' '}
              <bdi>{event.place}</bdi>
            </span>
          )}
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
        <s dir="auto">{event.title}</s> <em>{texts.calledOff}</em>
      </span>
    );
  const news = event.news === 'new' ? texts.newsNew : event.news === 'moved' ? texts.newsMoved : '';
  return (
    <span className="title">
      <bdi>{event.title}</bdi>
      {news && <em className="news"> {news}</em>}
    </span>
  );
};

export const Details = ({ event, withTitle }: { event: OutletEvent; withTitle?: boolean }) => {
  const { start, texts, words } = useContext(OutletContext);
  const calendars = [event.calendar, ...(event.also ?? [])].map((c) => start.calendars[c]?.title).filter(Boolean);
  return (
    <div className="details">
      {withTitle && <h3 dir="auto">{event.title}</h3>}
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
        <div className="description" dir="auto" dangerouslySetInnerHTML={{ __html: event.description }} />
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
          <a href={`${start.page}/e/${event.id}${start.languageQuery}`} target="_blank" rel="noopener">
            {texts.eventPage}
          </a>
          <a href={`${start.page}/e/${event.id}.ics`}>{texts.oneFile}</a>
        </p>
      )}
      <p className="from">{calendars.join(', ')}</p>
    </div>
  );
};

/** Closes by Escape what was opened; the focus goes back to where it was. */
export const useEscape = (onClose: () => void) => {
  const close = useRef(onClose);
  // With what opened, not after the next picture: a quick hand presses before that.
  useLayoutEffect(() => {
    close.current = onClose;
  });
  useLayoutEffect(() => {
    const before = document.activeElement;
    const onKey = (e: KeyboardEvent) => {
      if (e.key !== 'Escape') return;
      close.current();
      if (before instanceof HTMLElement && before.isConnected) before.focus();
    };
    addEventListener('keydown', onKey);
    return () => removeEventListener('keydown', onKey);
  }, []);
};

/** Something that opened, kept in sight. */
export const Opened = ({ onClose, children }: { onClose: () => void; children: React.ReactNode }) => {
  const { texts } = useContext(OutletContext);
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => box.current?.scrollIntoView({ block: 'nearest' }), []);
  useEscape(onClose);
  return (
    <div ref={box} className="card">
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
  const [state, setState] = useState<'copied' | 'selected' | null>(null);
  const copy = async () => {
    const isCopied = await copied(address);
    // What could not be copied is selected, for the reader's own keys.
    if (!isCopied) field.current?.select();
    setState(isCopied ? 'copied' : 'selected');
  };
  return (
    <p className="address">
      <input ref={field} readOnly value={address} aria-label={label} onFocus={(e) => e.currentTarget.select()} />
      <button type="button" onClick={() => void copy()}>
        {state ? texts[state] : texts.copy}
      </button>
    </p>
  );
};

/** How to have it in one's own calendar: on this device, on a phone, elsewhere. */
export const Subscribe = ({ choice, onClose }: { choice: string; onClose: () => void }) => {
  const { start, texts } = useContext(OutletContext);
  useEscape(onClose);
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
          {start.byMail && (
            <>
              <h3>{texts.byMail}</h3>
              <p>
                {texts.byMailHow}{' '}
                <a href={`${start.byMail}${choice}`} target="_blank" rel="noopener">
                  {texts.byMail}
                </a>
              </p>
            </>
          )}
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
