-- What of the calendars goes out, for which days and how long.
alter table publication add column choices jsonb not null default '{}';

-- A link that was replaced, as after it leaked: whoever has it is told that it is gone.
create table publication_old_key (
    key text primary key,
    school_id uuid not null references school,
    publication_id uuid not null references publication on delete cascade,
    replaced_at timestamptz not null
);
alter table publication_old_key enable row level security;
create policy apart on publication_old_key using (school_id = (select valtro_school()) or (select valtro_all()));

-- Names are one for all schools: a link that was replaced never leads to somebody else's calendar.
create function publication_key_retired(sought text, but uuid) returns boolean
language sql stable security definer set search_path = public, pg_temp
as $$ select exists (select from publication_old_key where key = sought and publication_id <> but) $$;
