-- Added dates, what differs on single dates, and what an event was split off from.
alter table event
    add column extras timestamp[] not null default '{}',
    add column changes jsonb not null default '[]',
    add column related_to text;
