-- Facts of steps are JSON that is written once and read whole: as text it need not be taken apart and put together again.
-- What a run names for the first time is found when it is planned, where all facts are at hand; so is whether its addresses can be trusted to differ.
alter table run
    add column units jsonb not null default '{}' check (jsonb_typeof(units) = 'object'),
    add column has_plain_addresses boolean not null default false;
update run set units = coalesce((
    select jsonb_object_agg(kind, names) from (
        select kind, jsonb_agg(distinct name) as names
        from run_step cross join lateral (values ('entity', after_facts->>'organisation'), ('office', after_facts->>'location'), ('team', after_facts->>'department')) as part(kind, name)
        where run_id = run.id and name <> '' group by kind) named), '{}')
where state in ('planned', 'held');
alter table run_step
    alter column before_facts type text,
    alter column after_facts type text;
