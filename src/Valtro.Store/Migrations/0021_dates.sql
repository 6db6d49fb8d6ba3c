-- Which events have contents is found by what they were tied to; single dates have files too.
drop function event_with_facts(jsonb);
drop index event_facts;

-- A template keeps the files that events started from it begin with.
create table template_content (
    template_id uuid not null references template on delete cascade,
    school_id uuid not null references school,
    content_id uuid not null references content,
    primary key (template_id, content_id)
);
create index template_content_content on template_content (content_id);
alter table template_content enable row level security;
alter table template_content force row level security;
create policy apart on template_content using (school_id = (select valtro_school()) or (select valtro_is_owner()));
