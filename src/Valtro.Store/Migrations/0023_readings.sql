-- What was read, added up by day, outlet and program; how many readers there were is told by a sketch of two thousand bytes at most
-- (Valtro.Core.Publishing.ReaderSketch), so a million of them are some kilobytes a day and no rows of their own. Rows of before
-- are moved over by the server, a day at a time.
create table readings_of_day (
    publication_id uuid not null references publication on delete cascade,
    school_id uuid not null references school,
    day date not null,
    outlet smallint not null,
    kind smallint not null,
    family text not null,
    fetches bigint not null,
    unchanged bigint not null,
    readers bytea not null,
    at timestamptz not null,
    primary key (publication_id, day, outlet, kind, family)
);
create index readings_of_day_day on readings_of_day (day);
alter table readings_of_day enable row level security;
alter table readings_of_day force row level security;
create policy apart on readings_of_day using (school_id = (select valtro_school()) or (select valtro_is_owner()));
