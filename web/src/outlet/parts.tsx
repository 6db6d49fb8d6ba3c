import { useState } from 'react';
import { markOf, type OutletEvent, type OutletStart, type Texts, type Words } from './model';

interface EventProps {
  event: OutletEvent;
  start: OutletStart;
  words: Words;
}

/** A line that opens to the event's details. */
export const EventLine = ({ event, start, texts, words }: EventProps & { texts: Texts }) => (
  <li className={`entry mark-${markOf(event, start)}`}>
    <span className="spine" aria-hidden="true" />
    <details>
      <summary>
        {!event.allDay && event.firstDay === event.lastDay && <span className="time">{words.time(event.start)} </span>}
        <Title event={event} texts={texts} />
        {event.firstDay < event.lastDay && (
          <span className="place">
            {' '}
            {words.fill(texts.untilDay, { value: words.heading(event.lastDay, start.today) })}
          </span>
        )}
        {event.place && <span className="place"> {event.place}</span>}
      </summary>
      <Details event={event} start={start} words={words} />
    </details>
  </li>
);

/** A title; of a date that is called off struck through, and said. */
export const Title = ({ event, texts }: { event: OutletEvent; texts: Texts }) =>
  event.calledOff ? (
    <span className="title">
      <s>{event.title}</s> <em>{texts.calledOff}</em>
    </span>
  ) : (
    <span className="title">{event.title}</span>
  );

export const Details = ({ event, start, words, withTitle }: EventProps & { withTitle?: boolean }) => (
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
    <p className="from">{start.calendars[event.calendar]?.title}</p>
  </div>
);

/** How to have it in one's own calendar. */
export const Subscribe = ({ start, texts, onClose }: { start: OutletStart; texts: Texts; onClose: () => void }) => {
  const [copied, setCopied] = useState(false);
  const copy = () => {
    // A frame of another site may not reach the clipboard; the address stands there to be selected.
    navigator.clipboard?.writeText(start.feed).then(
      () => setCopied(true),
      () => setCopied(false),
    );
  };
  return (
    <section className="card subscribe" aria-label={texts.subscribe}>
      <p>{texts.subscribeHow}</p>
      <p className="actions">
        <a className="strong" href={start.webcal}>
          {texts.subscribeOpen}
        </a>
        <a href={start.feed}>{texts.download}</a>
      </p>
      <p className="address">
        <input readOnly value={start.feed} aria-label={texts.copy} onFocus={(e) => e.currentTarget.select()} />
        <button type="button" onClick={copy}>
          {copied ? texts.copied : texts.copy}
        </button>
      </p>
      <button type="button" onClick={onClose}>
        {texts.close}
      </button>
    </section>
  );
};
