-- The server signs in as a role of its own, which owns nothing and sees one school at a time. What has to look across schools
-- goes through the owner's few functions below: each tells what is asked for by a secret or a name, and no more.
-- Its words are written out: a dump is made without any path to look for them.
create function valtro_is_owner() returns boolean language sql stable
as $$ select pg_catalog.pg_get_userbyid(relowner) = current_user from pg_catalog.pg_class where oid = 'public.school'::pg_catalog.regclass $$;

-- Mail that belonged to no school was never written.
delete from mail where school_id is null;
alter table mail alter column school_id set not null;

-- Whether a mail is on its way: whoever sends it says so first and holds nothing open meanwhile.
alter table mail add column taken_at timestamptz;

-- A device a person has signed in from: it is let try while others guess.
create table known_device (
    token_hash bytea primary key,
    school_id uuid not null references school,
    person_id uuid not null references person on delete cascade,
    used_at timestamptz not null
);
create index known_device_person on known_device (person_id);

do $$
declare
    t text;
begin
    for t in select tablename from pg_tables where schemaname = 'public' and tablename <> 'schemaversions' loop
        execute format('alter table %I enable row level security', t);
        execute format('alter table %I force row level security', t);
        execute format('drop policy if exists apart on %I', t);
        execute format(
            'create policy apart on %I using (%s = (select valtro_school()) or (select valtro_is_owner()))',
            t, case t when 'school' then 'id' else 'school_id' end);
    end loop;
end
$$;
drop function valtro_all();

create function school_all() returns setof school
language sql stable security definer set search_path = public, pg_temp
as $$ select * from school order by created_at, id $$;

create function person_by_email(sought text) returns table (id uuid, school_id uuid, name text, email text, password_hash text, role smallint)
language sql stable security definer set search_path = public, pg_temp
as $$ select id, school_id, name, email, password_hash, role from person where lower(email) = lower(sought) and left_at is null $$;

create function person_by_session(token bytea, at timestamptz) returns table (id uuid, school_id uuid, name text, email text, password_hash text, role smallint)
language sql stable security definer set search_path = public, pg_temp
as $$
    select p.id, p.school_id, p.name, p.email, p.password_hash, p.role from session s join person p on p.id = s.person_id and p.school_id = s.school_id
    where s.token_hash = token and s.expires_at > at and p.left_at is null
$$;

-- The school of an invitation, of a way to a new password or of one to a new address.
create function school_of_secret(token bytea) returns uuid
language sql stable security definer set search_path = public, pg_temp
as $$
    select school_id from invitation where token_hash = token
    union all select school_id from password_reset where token_hash = token
    union all select school_id from email_change where token_hash = token
    limit 1
$$;

-- An address belongs to one person of one school; who left gives it free.
create function email_release(sought text) returns void
language sql security definer set search_path = public, pg_temp
as $$ update person set email = id::text where lower(email) = lower(sought) and left_at is not null $$;

create function school_of_publication(sought text) returns uuid
language sql stable security definer set search_path = public, pg_temp
as $$
    select school_id from publication where key = sought
    union all select school_id from publication_old_key where key = sought
    union all select school_id from member_link where key = sought
    limit 1
$$;

create function school_with_mail(due timestamptz, taken_before timestamptz) returns setof uuid
language sql stable security definer set search_path = public, pg_temp
as $$ select distinct school_id from mail where sent_at is null and next_try_at <= due and (taken_at is null or taken_at <= taken_before) $$;
