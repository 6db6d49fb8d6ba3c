-- Whoever made a publication has it; those of before are their calendars' keepers'.
alter table publication add column owner_id uuid references person on delete set null;
