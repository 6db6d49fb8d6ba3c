-- What is set for one school of how much it may take; null where the installation's own limits hold.
alter table school add column limits jsonb;

-- Up to when the history of a school has one state a day and thing.
alter table school add column thinned_to timestamptz;

-- How many were sent within a day.
create index mail_sent on mail (school_id, sent_at) where sent_at is not null;

-- The newest change of the schema: a server that still runs finds out that a newer one has come.
create function schema_newest() returns text
language sql stable security definer set search_path = public, pg_temp
as $$ select scriptname::text from schemaversions order by schemaversionsid desc limit 1 $$;
