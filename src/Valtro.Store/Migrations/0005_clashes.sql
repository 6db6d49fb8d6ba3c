-- Clashes that somebody has looked at and accepted.
create table accepted_clash (
    school_id uuid not null references school,
    -- What clashes: it stays the same while the same things do.
    key text not null,
    reason text not null,
    person_id uuid references person on delete set null,
    at timestamptz not null,
    primary key (school_id, key)
);
