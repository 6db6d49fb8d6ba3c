-- School years are kept by the school, and series follow them.
alter table school
    -- Grows with every change of the years: dates are computed by the years that are stored with them.
    add column years_revision int not null default 0;

alter table school_year
    add column week text not null default 'MO,TU,WE,TH,FR',
    add column cycle_restarts boolean not null default false,
    add column letters_restart boolean not null default false,
    add column pins jsonb not null default '[]',
    add column version int not null default 1;

alter table closure
    -- Empty for the whole school.
    add column calendar_ids uuid[] not null default '{}';

alter table event
    -- How the series follows school days, and the dates that gave by the years as they are.
    add column follows jsonb,
    add column by_school_days jsonb;
create index event_follows on event (school_id) where follows is not null;
