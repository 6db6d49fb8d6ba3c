-- Events, and changes of events, that wait for the keepers of the calendars they are offered to.
create table proposal (
    id uuid primary key,
    school_id uuid not null references school,
    person_id uuid references person on delete set null,
    -- The event it is about; of a new one the identity it will have.
    event_id uuid not null,
    is_new boolean not null,
    base jsonb,
    offered jsonb not null,
    added jsonb not null,
    remark text not null,
    created_at timestamptz not null,
    changed_at timestamptz not null,
    version int not null
);
create index proposal_school on proposal (school_id, changed_at);
create index proposal_person on proposal (person_id);

create table proposal_ask (
    proposal_id uuid not null references proposal on delete cascade,
    school_id uuid not null references school,
    calendar_id uuid not null references calendar on delete cascade,
    kind smallint not null,
    answer smallint not null,
    remark text not null,
    answered_by uuid references person on delete set null,
    answered_at timestamptz,
    event_version int,
    -- When the keepers were written of it, and the proposer of the answer; null while they were not.
    told_at timestamptz,
    told_back_at timestamptz,
    primary key (proposal_id, calendar_id, kind)
);
create index proposal_ask_calendar on proposal_ask (calendar_id) where answer in (0, 2);
create index proposal_ask_untold on proposal_ask (school_id) where told_at is null or told_back_at is null;

-- Contents that a proposal has, so that they wait with it.
create table proposal_content (
    proposal_id uuid not null references proposal on delete cascade,
    school_id uuid not null references school,
    content_id uuid not null references content,
    primary key (proposal_id, content_id)
);

alter table proposal enable row level security;
alter table proposal_ask enable row level security;
alter table proposal_content enable row level security;
create policy apart on proposal using (school_id = (select valtro_school()) or (select valtro_all()));
create policy apart on proposal_ask using (school_id = (select valtro_school()) or (select valtro_all()));
create policy apart on proposal_content using (school_id = (select valtro_school()) or (select valtro_all()));
