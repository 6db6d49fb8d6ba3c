-- Words of events, folded: lower case, without accents. Trigrams forgive typing errors (pg_trgm is a trusted extension).
create extension if not exists pg_trgm;
alter table event add column words text not null default '';
update event set words = lower(title || ' ' || place || ' ' || description);
create index event_words on event using gin (words gin_trgm_ops);
create index event_words_text on event using gin (to_tsvector('simple', words));
