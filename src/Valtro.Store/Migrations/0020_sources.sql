-- Calendars whose events come from an address that is followed.
alter table calendar add column is_followed boolean not null default false;

create table source (
    id uuid primary key,
    school_id uuid not null references school,
    -- The lane of its own.
    calendar_id uuid not null unique references calendar on delete cascade,
    person_id uuid references person on delete set null,
    address text not null,
    -- Of the address it is asked at now: one request at a time goes to a host.
    host text not null,
    moved_to text,
    every_minutes int,
    past_days int not null,
    ahead_days int not null,
    sorting jsonb not null,
    version int not null,
    etag text,
    last_modified text,
    wish_minutes int,
    -- What was last read, as it came: it is sorted anew when the rules change.
    body bytea,
    body_at timestamptz,
    read_at timestamptz,
    -- When it is read next; null when it is not any more.
    next_at timestamptz,
    failures int not null,
    failing_since timestamptz,
    problem text,
    leased_until timestamptz
);
create index source_due on source (next_at) where next_at is not null;
create index source_school on source (school_id);

-- What each reading changed.
create table source_reading (
    id uuid primary key,
    school_id uuid not null references school,
    source_id uuid not null references source on delete cascade,
    at timestamptz not null,
    problem text,
    added int not null,
    changed int not null,
    gone int not null,
    kept int not null,
    -- Some of what it was about.
    told jsonb not null
);
create index source_reading_source on source_reading (source_id, at desc);

-- Files that lie ready to be brought in; a day.
create table bringing (
    id uuid primary key,
    school_id uuid not null references school,
    person_id uuid not null references person on delete cascade,
    name text not null,
    body bytea not null,
    at timestamptz not null
);

-- Files that were brought in.
create table brought (
    id uuid primary key,
    school_id uuid not null references school,
    person_id uuid references person on delete set null,
    at timestamptz not null,
    name text not null,
    size bigint not null,
    added int not null,
    changed int not null,
    same int not null,
    gone int not null,
    left_out int not null,
    calendar_ids uuid[] not null
);
create index brought_school on brought (school_id, at desc);

-- Where events come from, and what they were there when that was last read.
-- It outlives the event: what somebody threw away here does not come back with the next reading.
create table origin (
    event_id uuid primary key,
    school_id uuid not null references school,
    -- Null for a file.
    source_id uuid references source on delete set null,
    key text not null,
    name text not null,
    read jsonb not null,
    is_kept boolean not null,
    own text[] not null
);
create index origin_key on origin (school_id, key);
create index origin_source on origin (source_id) where source_id is not null;
create index origin_name on origin (school_id, name) where source_id is null;

do $$
declare
    t text;
begin
    foreach t in array array['source', 'source_reading', 'bringing', 'brought', 'origin'] loop
        execute format('alter table %I enable row level security', t);
        execute format('alter table %I force row level security', t);
        execute format('create policy apart on %I using (school_id = (select valtro_school()) or (select valtro_is_owner()))', t);
    end loop;
end
$$;

-- The next source that is due, of whatever school, for whoever reads it until then. Two of one host are never read at once.
create function source_take(at timestamptz, until timestamptz) returns table (school_id uuid, id uuid)
language plpgsql security definer set search_path = public, pg_temp
as $$
begin
    perform pg_advisory_xact_lock(hashtext('source_take'));
    return query
        update source s set leased_until = until where s.id = (
            select d.id from source d
            where d.next_at <= at and (d.leased_until is null or d.leased_until <= at)
                and not exists (select from source o where o.host = d.host and o.leased_until > at)
            order by d.next_at limit 1)
        returning s.school_id, s.id;
end
$$;

-- What the columns of a person's tables said, for the next table of that shape.
create table table_shape (
    person_id uuid not null references person on delete cascade,
    school_id uuid not null references school,
    shape text not null,
    meanings text[] not null,
    at timestamptz not null,
    primary key (person_id, shape)
);
alter table table_shape enable row level security;
alter table table_shape force row level security;
create policy apart on table_shape using (school_id = (select valtro_school()) or (select valtro_is_owner()));
