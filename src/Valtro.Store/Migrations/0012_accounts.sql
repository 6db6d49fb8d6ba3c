-- A person's own settings, their second factor, and the log of who did what.
alter table person
    add column settings jsonb,
    add column factor_secret bytea,
    -- Set when the first code was given: before that it is only being set up.
    add column factor_since timestamptz,
    -- The last time step a code was taken for: none is taken twice (RFC 6238, 5.2).
    add column factor_step bigint not null default 0;

create table recovery_code (
    person_id uuid not null references person on delete cascade,
    school_id uuid not null references school,
    code_hash bytea not null,
    primary key (person_id, code_hash)
);

-- An address somebody wants to have, until they open the link that was sent there.
create table email_change (
    token_hash bytea primary key,
    school_id uuid not null references school,
    person_id uuid not null references person on delete cascade,
    email text not null,
    expires_at timestamptz not null
);

create table audit (
    id uuid primary key,
    school_id uuid not null references school,
    person_id uuid references person on delete set null,
    at timestamptz not null,
    action text not null,
    about_id uuid,
    address text not null
);
create index audit_school on audit (school_id, at desc, id desc);

alter table calendar add column is_out_of_search boolean not null default false;

-- What a clash is accepted by no longer names its events.
update accepted_clash set key = substr(encode(sha256(convert_to(school_id::text || ' ' || key, 'UTF8')), 'hex'), 1, 32);

do $$
declare
    t text;
begin
    foreach t in array array['recovery_code', 'email_change', 'audit'] loop
        execute format('alter table %I enable row level security', t);
        execute format('create policy apart on %I using (school_id = (select valtro_school()) or (select valtro_all()))', t);
    end loop;
end
$$;
