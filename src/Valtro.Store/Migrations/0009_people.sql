-- Who may do what. Whoever was there before there were roles could do everything, and still can.
alter table person
    add column role smallint not null default 0,
    add column left_at timestamptz;
update person set role = 1;

-- Groups of people, so that sharing need not list names.
create table person_group (
    id uuid primary key,
    school_id uuid not null references school,
    name text not null
);
create unique index person_group_name on person_group (school_id, lower(name));
create table group_member (
    group_id uuid not null references person_group on delete cascade,
    person_id uuid not null references person on delete cascade,
    school_id uuid not null references school,
    primary key (group_id, person_id)
);
create index group_member_person on group_member (person_id);

-- What a person or a group is to a calendar.
create table calendar_role (
    id uuid primary key,
    school_id uuid not null references school,
    calendar_id uuid not null references calendar on delete cascade,
    person_id uuid references person on delete cascade,
    group_id uuid references person_group on delete cascade,
    role smallint not null,
    check ((person_id is null) <> (group_id is null)),
    unique nulls not distinct (calendar_id, person_id, group_id)
);
create index calendar_role_person on calendar_role (person_id);
create index calendar_role_group on calendar_role (group_id);

-- The way into the school: a secret sent by mail, of which only the hash is kept.
create table invitation (
    id uuid primary key,
    school_id uuid not null references school,
    email text not null,
    role smallint not null,
    token_hash bytea not null unique,
    invited_by uuid references person on delete set null,
    created_at timestamptz not null,
    expires_at timestamptz not null,
    used_at timestamptz
);
create index invitation_school on invitation (school_id, created_at);

-- A secret that lets somebody set a new password.
create table password_reset (
    token_hash bytea primary key,
    school_id uuid not null references school,
    person_id uuid not null references person on delete cascade,
    expires_at timestamptz not null
);

-- Mail on its way: written with what it tells of, sent by whoever gets to it first.
create table mail (
    id uuid primary key,
    school_id uuid references school,
    recipient text not null,
    subject text not null,
    body text not null,
    created_at timestamptz not null,
    next_try_at timestamptz not null,
    tries int not null default 0,
    sent_at timestamptz,
    problem text
);
create index mail_due on mail (next_try_at) where sent_at is null;
