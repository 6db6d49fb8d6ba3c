-- Contents of files and pictures. A content never changes: a file that is replaced gets another one.
create table content (
    id uuid primary key,
    school_id uuid not null references school,
    person_id uuid references person on delete set null,
    media_type text not null,
    size bigint not null,
    created_at timestamptz not null
);
create index content_school on content (school_id, created_at);

-- In parts, so that a large one is never whole in memory. Pictures have a second, smaller variant.
create table content_part (
    content_id uuid not null references content on delete cascade,
    variant smallint not null,
    part int not null,
    bytes bytea not null,
    primary key (content_id, variant, part)
);
alter table content_part alter column bytes set storage external;

-- Every content an event has ever had, so that what was can be put back for as long as the event is there.
create table event_content (
    event_id uuid not null references event on delete cascade,
    content_id uuid not null references content,
    primary key (event_id, content_id)
);
create index event_content_content on event_content (content_id);

create index event_facts on event using gin (facts jsonb_path_ops);

-- What can be started from, kept by the school.
create table template (
    id uuid primary key,
    school_id uuid not null references school,
    name text not null,
    event jsonb not null,
    created_at timestamptz not null
);
create unique index template_name on template (school_id, lower(name));

-- What an outsider got when opening a link.
create table link_check (
    school_id uuid not null references school,
    address text not null,
    outcome smallint not null,
    status int,
    checked_at timestamptz not null,
    primary key (school_id, address)
);
