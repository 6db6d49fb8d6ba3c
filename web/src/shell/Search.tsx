import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useId, useRef, useState, type KeyboardEvent } from 'react';
import Form from 'react-bootstrap/Form';
import { useNavigate } from 'react-router';
import { api, type Hit } from '../shared/api/client';
import { formatDay, monday } from '../shared/dates';
import { useTexts } from '../shared/i18n';
import { useDebounced } from '../shared/useDebounced';
import { markClass, Spine } from '../shared/parts/Spine';
import { useCalendars } from '../shared/data/useLists';

/** Finds events by their words, past and to come; the board jumps to the one that is picked. */
export const Search = () => {
  const { t, language } = useTexts();
  const navigate = useNavigate();
  const calendars = useCalendars();
  const id = useId();
  const box = useRef<HTMLDivElement>(null);
  const [text, setText] = useState('');
  const [open, setOpen] = useState(false);
  const [at, setAt] = useState(0);
  const asked = useDebounced(text.trim(), 200);
  const found = useQuery({
    queryKey: ['search', asked],
    queryFn: () => api.search(asked),
    enabled: asked.length > 1,
    placeholderData: keepPreviousData,
  });
  const hits = (text.trim().length > 1 && found.data) || [];
  const go = (hit: Hit) => {
    setOpen(false);
    setText('');
    void navigate(`/plan?form=lanes&from=${monday(hit.day)}&days=7&open=${hit.eventId}_${hit.date}`);
  };
  const key = (e: KeyboardEvent) => {
    if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
      e.preventDefault();
      setAt(Math.max(0, Math.min(hits.length - 1, at + (e.key === 'ArrowDown' ? 1 : -1))));
    } else if (e.key === 'Enter' && hits[at]) {
      e.preventDefault();
      go(hits[at]);
    } else if (e.key === 'Escape' && open) {
      e.preventDefault();
      setOpen(false);
    }
  };
  const shown = open && text.trim().length > 1;
  return (
    <div
      className="top-search"
      ref={box}
      onBlur={(e) => {
        if (!e.currentTarget.contains(e.relatedTarget)) setOpen(false);
      }}
    >
      <Form.Control
        type="search"
        role="combobox"
        aria-label={t('search.label')}
        aria-expanded={shown}
        aria-controls={id}
        aria-activedescendant={shown && hits[at] ? `${id}-${at}` : undefined}
        placeholder={t('search.placeholder')}
        value={text}
        maxLength={200}
        onFocus={() => setOpen(true)}
        onChange={(e) => {
          setText(e.target.value);
          setAt(0);
          setOpen(true);
        }}
        onKeyDown={key}
      />
      {shown && (
        <div className="search-hits">
          <ul id={id} role="listbox" aria-label={t('search.hits')}>
            {hits.map((hit, i) => {
              const calendar = calendars.find((c) => c.id === hit.calendarId);
              return (
                <li
                  key={hit.eventId}
                  id={`${id}-${i}`}
                  role="option"
                  aria-selected={i === at}
                  className={markClass(calendar?.mark ?? 1)}
                  onPointerDown={(e) => {
                    e.preventDefault();
                    go(hit);
                  }}
                >
                  <Spine />
                  <span>
                    <strong>{hit.title}</strong>{' '}
                    <span className="quiet">
                      {[
                        formatDay(hit.day, language, { day: 'numeric', month: 'short', year: 'numeric' }),
                        hit.place,
                        calendar?.title,
                        hit.isOver && t('search.over'),
                      ]
                        .filter(Boolean)
                        .join(' · ')}
                    </span>
                  </span>
                </li>
              );
            })}
          </ul>
          {found.data && !found.isPlaceholderData && hits.length === 0 && <p className="quiet">{t('search.none')}</p>}
        </div>
      )}
    </div>
  );
};
