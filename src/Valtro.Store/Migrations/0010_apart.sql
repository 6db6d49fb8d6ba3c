-- Schools are kept apart by the database itself: a query that forgets the school finds nothing of another one. The server
-- works under a role that owns no table (Database.cs makes it), and says for each connection of which school it is.

alter table content_part add column school_id uuid references school;
update content_part p set school_id = c.school_id from content c where c.id = p.content_id;
alter table content_part alter column school_id set not null;
alter table event_content add column school_id uuid references school;
update event_content x set school_id = e.school_id from event e where e.id = x.event_id;
alter table event_content alter column school_id set not null;

create function valtro_school() returns uuid language sql stable
as $$ select nullif(current_setting('valtro.school', true), '')::uuid $$;

-- For what is of no school yet, or of all: a session by its secret, mail on its way.
create function valtro_all() returns boolean language sql stable
as $$ select coalesce(current_setting('valtro.all', true), '') = 'on' $$;

do $$
declare
    t text;
begin
    for t in select tablename from pg_tables where schemaname = 'public' and tablename <> 'schemaversions' loop
        execute format('alter table %I enable row level security', t);
        execute format(
            'create policy apart on %I using (%s = (select valtro_school()) or (select valtro_all()))',
            t, case t when 'school' then 'id' else 'school_id' end);
    end loop;
end
$$;

-- Under row-level security only operators that cannot leak use an index, and those of ranges, arrays, words and documents are
-- none. What needs one goes through functions of the owner, which take the school from the connection and from nobody else.
create function event_in_window(first timestamptz, last timestamptz) returns setof event
language plpgsql stable security definer set search_path = public, pg_temp as $$
begin
    return query execute
        'select * from event where school_id = $1 and deleted_at is null and tstzrange(bounds_from, bounds_to) && tstzrange($2, $3)'
        using valtro_school(), first, last;
end
$$;

create function event_standing_in(calendars uuid[]) returns setof event
language plpgsql stable security definer set search_path = public, pg_temp as $$
begin
    return query execute
        'select * from event where school_id = $1 and calendar_id = any($2)
         union all
         select * from event where school_id = $1 and also_in && $2 and calendar_id <> all($2)'
        using valtro_school(), calendars;
end
$$;

create function event_with_facts(sought jsonb) returns setof event
language plpgsql stable security definer set search_path = public, pg_temp as $$
begin
    return query execute 'select * from event where school_id = $1 and facts @> $2' using valtro_school(), sought;
end
$$;

create function event_with_words(sought text, pattern text) returns setof event
language plpgsql stable security definer set search_path = public, pg_temp as $$
begin
    return query execute
        'select * from event where school_id = $1 and deleted_at is null
           and ($2 <% words or to_tsvector(''simple'', words) @@ websearch_to_tsquery(''simple'', $2) or words like $3)'
        using valtro_school(), sought, pattern;
end
$$;
