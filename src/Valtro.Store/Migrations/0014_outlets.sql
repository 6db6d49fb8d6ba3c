-- How a publication looks, what its keepers are changing, and when it last went out.
alter table publication
    add column look jsonb not null default '{}',
    add column draft jsonb,
    add column published_at timestamptz,
    -- What went out when it was last published, in short: to tell what has become different since.
    add column sent jsonb,
    drop column detail;
update publication set published_at = created_at;

-- The picture at the head of a page: out, or in changes that are not out yet.
create table publication_content (
    publication_id uuid not null references publication on delete cascade,
    school_id uuid not null references school,
    content_id uuid not null references content on delete cascade,
    primary key (publication_id, content_id)
);
create index publication_content_content on publication_content (content_id);

-- A member's own link to a publication for members: calendar programs cannot sign in.
create table member_link (
    key text primary key,
    school_id uuid not null references school,
    publication_id uuid not null references publication on delete cascade,
    person_id uuid not null references person on delete cascade,
    made_at timestamptz not null,
    unique (publication_id, person_id)
);

-- Who reads, without who they are: a reader is a hash that means something on one day only.
create table reading (
    school_id uuid not null references school,
    publication_id uuid not null references publication on delete cascade,
    day date not null,
    reader bytea not null,
    outlet smallint not null,
    kind smallint not null,
    family text not null,
    fetches int not null,
    unchanged int not null,
    revision bigint not null,
    at timestamptz not null,
    primary key (publication_id, day, reader, outlet)
);
create index reading_day on reading (day);

-- A school's salt of the day, one for all servers; gone with the day, after which no hash can be made again.
create table reading_salt (
    school_id uuid not null references school,
    day date not null,
    salt bytea not null,
    primary key (school_id, day)
);

do $$
declare name text;
begin
    foreach name in array array['publication_content', 'member_link', 'reading', 'reading_salt'] loop
        execute format('alter table %I enable row level security', name);
        execute format('create policy apart on %I using (school_id = (select valtro_school()) or (select valtro_all()))', name);
    end loop;
end $$;

-- Links of members and names of publications are one set of names.
create or replace function publication_key_retired(sought text, but uuid) returns boolean
language sql stable security definer set search_path = public, pg_temp
as $$
    select exists (select from publication_old_key where key = sought and publication_id <> but)
        or exists (select from member_link where key = sought)
$$;
