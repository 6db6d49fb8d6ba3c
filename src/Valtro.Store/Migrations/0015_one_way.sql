-- One way in: what readers are told of changes for each detail on its own (times, headlines, everything), steps in the
-- database's own order, and requests that may come twice.
alter table event
    add column seen_at timestamptz[],
    add column seen_no int[];
update event set seen_at = array[changed_at, changed_at, changed_at], seen_no = array[version, version, version];
alter table event
    alter column seen_at set not null,
    alter column seen_no set not null;

-- Servers' clocks differ: what came after what is the database's to say.
alter table history add column place bigint;
update history h set place = n.place from (select id, row_number() over (order by at, id) as place from history) n where n.id = h.id;
alter table history alter column place set not null;
create sequence history_place owned by history.place;
select setval('history_place', coalesce((select max(place) from history), 0) + 1, false);
alter table history alter column place set default nextval('history_place');
drop index history_entity;
create index history_entity on history (entity_id, place);
drop index history_person;
create index history_person on history (person_id, place);

-- What somebody did at once, and whether they took it back: both in one order.
create sequence step_place;
create table step (
    -- The change in the history.
    id uuid primary key,
    school_id uuid not null references school,
    person_id uuid not null references person on delete cascade,
    place bigint not null default nextval('step_place'),
    at timestamptz not null,
    action text not null,
    -- When it was taken back, in the same order; null while it stands.
    undone_place bigint
);
create index step_person on step (person_id, place);
insert into step (id, school_id, person_id, at, action)
select change_id, school_id, person_id, at, action from (
    select distinct on (change_id) change_id, school_id, person_id, at, action, place from history
    where person_id is not null and entity in ('event', 'calendar', 'lists') and action not in ('undo', 'school year', 'approve', 'reopen')
      and at > now() - interval '1 hour'
    order by change_id, place) h
order by place;

-- A request whose answer was lost can come again: it is done once, and answered alike.
create table repeated (
    school_id uuid not null references school,
    person_id uuid not null references person on delete cascade,
    key text not null,
    -- Of method, address and body: the same key never stands for two things.
    request_hash bytea not null,
    at timestamptz not null,
    status int,
    content_type text,
    answer bytea,
    primary key (person_id, key)
);
create index repeated_at on repeated (at);

do $$
declare name text;
begin
    foreach name in array array['step', 'repeated'] loop
        execute format('alter table %I enable row level security', name);
        execute format('create policy apart on %I using (school_id = (select valtro_school()) or (select valtro_all()))', name);
    end loop;
end $$;

-- A name is told to be taken to those only who may read what has it.
drop index template_name;
create unique index template_name on template (school_id, (event->>'calendarId'), lower(name));

-- Of the events a search finds, those in calendars somebody sees; how well they fit is told apart for what is headlines
-- and for everything, so that what is not read does not put one before the other.
create function event_found(sought text, pattern text, calendars uuid[]) returns table (event_id uuid, by_all real, by_headlines real)
language plpgsql stable security definer set search_path = public, pg_temp as $$
begin
    return query execute
        'select id,
            (word_similarity($2, lower(title)) + word_similarity($2, words) + ts_rank(to_tsvector(''simple'', words), websearch_to_tsquery(''simple'', $2)))::real,
            (word_similarity($2, lower(title)) + word_similarity($2, lower(title || '' '' || place)))::real
         from event
         where school_id = $1 and deleted_at is null and (calendar_id = any($4) or also_in && $4)
           and ($2 <% words or to_tsvector(''simple'', words) @@ websearch_to_tsquery(''simple'', $2) or words like $3)'
        using valtro_school(), sought, pattern, calendars;
end
$$;
drop function event_with_words(text, text);
