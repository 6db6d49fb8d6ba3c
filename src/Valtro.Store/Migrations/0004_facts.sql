-- What an event has beside its texts and times, and what a school keeps for all its calendars.
alter table event
    add column facts jsonb not null default '{}',
    -- The calendars it stands in beside its home.
    add column also_in uuid[] not null default '{}',
    add column timed_at timestamptz;
update event set timed_at = created_at;
alter table event alter column timed_at set not null;
create index event_also_in on event using gin (also_in);

create table school_lists (
    school_id uuid primary key references school,
    -- Categories, places and limits, kept whole.
    lists jsonb not null,
    version int not null
);

-- How a person keeps the board: the form, what is folded or hidden, the order of the rows.
alter table person add column board jsonb;
