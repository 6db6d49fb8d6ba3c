-- Every table has school_id; ids are UUID version 7; version grows with every change and guards against stale writes.

create table school (
    id uuid primary key,
    name text not null,
    short_name text not null,
    zone text not null,
    language text not null,
    created_at timestamptz not null
);

create table person (
    id uuid primary key,
    school_id uuid not null references school,
    name text not null,
    email text not null,
    password_hash text not null,
    created_at timestamptz not null
);
create unique index person_email on person (lower(email));

create table session (
    -- SHA-256 of the cookie's secret: a copy of this table signs nobody in.
    token_hash bytea primary key,
    school_id uuid not null references school,
    person_id uuid not null references person on delete cascade,
    created_at timestamptz not null,
    expires_at timestamptz not null
);
create index session_person on session (person_id);
create index session_expires on session (expires_at);

create table school_year (
    id uuid primary key,
    school_id uuid not null references school,
    first_day date not null,
    last_day date not null,
    cycle_length int not null,
    week_letters text[] not null
);
create index school_year_days on school_year (school_id, first_day);

create table term (
    id uuid primary key,
    school_id uuid not null references school,
    school_year_id uuid not null references school_year on delete cascade,
    name text not null,
    first_day date not null,
    last_day date not null
);
create index term_year on term (school_year_id, first_day);

create table closure (
    id uuid primary key,
    school_id uuid not null references school,
    school_year_id uuid not null references school_year on delete cascade,
    name text not null,
    first_day date not null,
    last_day date not null
);
create index closure_year on closure (school_year_id, first_day);

create table calendar (
    id uuid primary key,
    school_id uuid not null references school,
    title text not null,
    description text not null,
    lane_group text not null,
    zone text not null,
    mark smallint not null,
    reach_members smallint not null,
    reach_link_holders smallint not null,
    reach_everyone smallint not null,
    position int generated always as identity,
    version int not null,
    created_at timestamptz not null,
    changed_at timestamptz not null,
    deleted_at timestamptz,
    check (reach_members >= reach_link_holders and reach_link_holders >= reach_everyone)
);
create index calendar_school on calendar (school_id, position);

create table event (
    id uuid primary key,
    school_id uuid not null references school,
    calendar_id uuid not null references calendar,
    uid text not null,
    title text not null,
    place text not null,
    description text not null,
    time_kind smallint not null,
    -- Local time in the event's zone; instants are derived, so new zone data moves nothing on the clock.
    start_local timestamp not null,
    length_seconds bigint not null,
    zone text,
    rule text,
    skips timestamp[] not null,
    -- The instants the event can touch, for finding it by a window; no end for an endless series.
    bounds_from timestamptz not null,
    bounds_to timestamptz,
    sequence int not null,
    version int not null,
    created_at timestamptz not null,
    changed_at timestamptz not null,
    deleted_at timestamptz,
    unique (school_id, uid)
);
create index event_calendar on event (calendar_id);
create index event_bounds on event using gist (tstzrange(bounds_from, bounds_to)) where deleted_at is null;

create table publication (
    id uuid primary key,
    school_id uuid not null references school,
    key text not null unique,
    title text not null,
    introduction text not null,
    audience smallint not null,
    detail smallint not null,
    first_view smallint not null,
    language text not null,
    version int not null,
    -- Grows with every change that can alter what goes out, in the transaction that makes the change.
    revision bigint not null,
    changed_at timestamptz not null,
    created_at timestamptz not null,
    taken_down_at timestamptz
);
create index publication_school on publication (school_id, created_at);

create table publication_calendar (
    publication_id uuid not null references publication on delete cascade,
    calendar_id uuid not null references calendar on delete cascade,
    school_id uuid not null references school,
    position int not null,
    primary key (publication_id, calendar_id)
);
create index publication_calendar_calendar on publication_calendar (calendar_id);

create table history (
    id uuid primary key,
    school_id uuid not null references school,
    person_id uuid references person on delete set null,
    at timestamptz not null,
    entity text not null,
    entity_id uuid not null,
    action text not null,
    before jsonb,
    after jsonb
);
create index history_entity on history (entity_id, at);
