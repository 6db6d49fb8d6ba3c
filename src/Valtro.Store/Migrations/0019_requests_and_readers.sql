-- Who else changes a publication.
alter table publication add column shared_with uuid[] not null default '{}';
-- Why its owner was last written to that it sends out less than it should; null while all is well.
alter table publication add column trouble text;

-- What keepers are asked to open for a publication's readers.
create table opening_request (
    id uuid primary key,
    school_id uuid not null references school,
    publication_id uuid not null references publication on delete cascade,
    calendar_id uuid not null references calendar on delete cascade,
    person_id uuid references person on delete set null,
    audience smallint not null,
    detail smallint not null,
    remark text not null,
    asked_at timestamptz not null,
    -- What was opened then, 0 for a no; null while it is not answered.
    given smallint,
    answer_remark text not null default '',
    answered_by uuid references person on delete set null,
    answered_at timestamptz
);
create unique index opening_request_once on opening_request (publication_id, calendar_id, audience) where answered_at is null;
create index opening_request_school on opening_request (school_id, asked_at);
create index opening_request_calendar on opening_request (calendar_id);
create index opening_request_person on opening_request (person_id);
alter table opening_request enable row level security;
alter table opening_request force row level security;
create policy apart on opening_request using (school_id = (select valtro_school()) or (select valtro_is_owner()));

-- Whether visitors may leave an address to be written to.
alter table school add column writes_to_readers boolean not null default false;
-- The key of their addresses' hashes, itself encrypted by the server.
alter table school add column reader_key bytea;

-- Visitors who are written to. Their address is encrypted; its hash, under a key of the school's, only tells that it is there already.
create table mail_reader (
    id uuid primary key,
    school_id uuid not null references school,
    publication_id uuid not null references publication on delete cascade,
    address bytea not null,
    address_hash bytea not null,
    wants smallint not null,
    choice text not null,
    language text not null,
    link_key text not null,
    asked_at timestamptz not null,
    confirm_hash bytea unique,
    confirmed_at timestamptz,
    -- The day, in the school's zone, up to which they were written to.
    told_on date,
    unique (publication_id, address_hash, wants, choice)
);
create index mail_reader_due on mail_reader (school_id, publication_id) where confirmed_at is not null;
alter table mail_reader enable row level security;
alter table mail_reader force row level security;
create policy apart on mail_reader using (school_id = (select valtro_school()) or (select valtro_is_owner()));

-- What a publication's readers by mail were last told of, to tell them what is different since.
create table mail_told (
    publication_id uuid primary key references publication on delete cascade,
    school_id uuid not null references school,
    told jsonb not null,
    at timestamptz not null
);
alter table mail_told enable row level security;
alter table mail_told force row level security;
create policy apart on mail_told using (school_id = (select valtro_school()) or (select valtro_is_owner()));

-- A mail to one of them holds no address, and the link by which it is the last.
alter table mail add column reader_id uuid references mail_reader on delete cascade;
alter table mail add column ends_at text;
create index mail_reader_mail on mail (reader_id) where reader_id is not null;

create function school_of_mail_reader(sought uuid) returns uuid
language sql stable security definer set search_path = public, pg_temp
as $$ select school_id from mail_reader where id = sought $$;

create function school_of_confirmation(sought bytea) returns uuid
language sql stable security definer set search_path = public, pg_temp
as $$ select school_id from mail_reader where confirm_hash = sought $$;

-- The pages search engines may list, of all schools.
create function listed_publications(public smallint, at timestamptz) returns table (key text, changed_at timestamptz)
language sql stable security definer set search_path = public, pg_temp
as $$
    select p.key, p.changed_at from publication p
    where p.audience = public and p.published_at is not null and p.taken_down_at is null
        and coalesce((p.choices->>'from')::timestamptz, '-infinity') <= at and coalesce((p.choices->>'until')::timestamptz, 'infinity') > at
        and not exists (select from publication_calendar pc join calendar c on c.id = pc.calendar_id
            where pc.publication_id = p.id and c.deleted_at is null and c.is_out_of_search)
    order by p.key limit 50000
$$;

-- Identities of events that went out in words and are gone for good: their links say so for ever. Nothing else is kept of them.
create table gone_event (
    publication_id uuid not null references publication on delete cascade,
    school_id uuid not null references school,
    uid text not null,
    primary key (publication_id, uid)
);
alter table gone_event enable row level security;
alter table gone_event force row level security;
create policy apart on gone_event using (school_id = (select valtro_school()) or (select valtro_is_owner()));
