-- The last revision of a publication by which less went out: what was rendered before it may not be shown any more, while what is
-- only older may be until the new one is ready.
alter table publication add column narrowed_revision bigint not null default 0;
