-- Which events have contents is found by what they were tied to; single dates have files too.
drop function event_with_facts(jsonb);
drop index event_facts;
