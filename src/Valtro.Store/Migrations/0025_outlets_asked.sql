-- What is asked for each outlet that is made. Functions in plpgsql keep their plans; planning was most of what these questions took.

-- What links lead to, of whichever schools. (school_of_publication stays for servers of the version before.)
create function publication_at(sought text[], members smallint)
returns table (
    key text, id uuid, school_id uuid, revision bigint, narrowed_revision bigint, changed_at timestamptz,
    is_gone boolean, shown_from timestamptz, shown_until timestamptz, is_closed boolean, is_personal boolean)
language plpgsql stable security definer set search_path = public, pg_temp as $$
#variable_conflict use_column
begin
    -- Looked up behind a select, an array says nothing of how long it is: a plan for all is as good as one for this array.
    return query
        select p.key, p.id, p.school_id, p.revision, p.narrowed_revision, p.changed_at, p.taken_down_at is not null,
            (p.choices->>'from')::timestamptz, (p.choices->>'until')::timestamptz, p.audience = members, false
        from publication p where p.key = any(array(select unnest(sought))) and p.published_at is not null
        union all
        select o.key, p.id, p.school_id, p.revision, p.narrowed_revision, p.changed_at, true, null, null, false, false
        from publication_old_key o join publication p on p.id = o.publication_id
        where o.key = any(array(select unnest(sought))) and not exists (select from publication where key = o.key)
        union all
        select m.key, p.id, p.school_id, p.revision, p.narrowed_revision, p.changed_at, p.taken_down_at is not null or w.left_at is not null or p.audience <> members,
            (p.choices->>'from')::timestamptz, (p.choices->>'until')::timestamptz, false, true
        from member_link m join publication p on p.id = m.publication_id join person w on w.id = m.person_id
        where m.key = any(array(select unnest(sought))) and p.published_at is not null;
end
$$;

create or replace function event_standing_in(calendars uuid[]) returns setof event
language plpgsql stable security definer set search_path = public, pg_temp as $$
begin
    return query
        select * from event where school_id = (select valtro_school()) and calendar_id = any(array(select unnest(calendars)))
        union all
        select * from event where school_id = (select valtro_school()) and also_in && array(select unnest(calendars)) and calendar_id <> all(calendars);
end
$$;
