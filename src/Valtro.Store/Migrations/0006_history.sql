-- What one write does belongs together: it is told and undone as one.
alter table history add column change_id uuid;
update history set change_id = id;
alter table history alter column change_id set not null;
create index history_person on history (person_id, at);
create index history_change on history (change_id);
