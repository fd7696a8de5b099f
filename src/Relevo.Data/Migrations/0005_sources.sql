-- People come from several sources: a person is known by the entries that sources have for them, and facts stand on layers.

-- Where people come from. Position is the order in which sources are believed. Settings, mapping and brake are documents of the core.
alter table source
    drop constraint source_kind_check,
    add constraint source_kind_check check (kind in ('ldif', 'csv', 'ldap', 'scim')),
    add column position integer not null default 0,
    add column settings jsonb not null default '{}' check (jsonb_typeof(settings) = 'object'),
    add column mapping jsonb check (jsonb_typeof(mapping) = 'object'),
    add column brake jsonb check (jsonb_typeof(brake) = 'object'),
    add column join_by text[] not null default '{}' check (join_by <@ array['mail', 'employeeNumber']),
    -- Encrypted by the web framework's data protection; never leaves the server.
    add column secret text not null default '',
    add column every_minutes integer check (every_minutes between 5 and 10080),
    add column next_at timestamptz,
    add column revision integer not null default 1 check (revision > 0),
    add column changed xid8 not null default pg_current_xact_id(),
    add column created_at timestamptz not null default now(),
    add column retired_at timestamptz;

-- changed: the transaction that last touched the person or anything that belongs to them. A process that keeps people in memory asks for
-- all rows from its last snapshot's oldest running transaction on, so no commit is missed, however late.
alter table person
    add column own jsonb not null default '{}' check (jsonb_typeof(own) = 'object'),
    add column override jsonb not null default '{}' check (jsonb_typeof(override) = 'object'),
    add column revision integer not null default 1 check (revision > 0),
    add column changed xid8 not null default pg_current_xact_id();

-- Every reading of a source, with what it would do or did.
create table run (
    id uuid primary key,
    source_id uuid not null references source (id),
    source_version bigint not null,
    kind text not null check (kind in ('file', 'byHand', 'schedule', 'push', 'undo')),
    name text not null check (length(name) between 1 and 260),
    state text not null check (state in ('reading', 'planned', 'held', 'refused', 'failed', 'applied', 'putAway')),
    other_entries integer not null default 0,
    unchanged integer not null default 0,
    listed integer not null default 0,
    problems jsonb not null default '[]' check (jsonb_typeof(problems) = 'array'),
    refused_values jsonb not null default '[]' check (jsonb_typeof(refused_values) = 'array'),
    refused_count integer not null default 0,
    brake text[] not null default '{}',
    -- Addresses that belong to somebody else already.
    collisions jsonb not null default '[]' check (jsonb_typeof(collisions) = 'array'),
    undoes uuid references run (id),
    started_by uuid references app_user (id),
    started_by_name text not null,
    started_at timestamptz not null default now(),
    applied_by_name text,
    applied_at timestamptz,
    check (applied_at is null or jsonb_array_length(problems) = 0)
);
create index run_source_idx on run (source_id, started_at desc);

-- Steps are where contents live: an entry points at the step that said it last, so that nothing is kept twice.
create table run_step (
    number bigint primary key generated always as identity,
    run_id uuid not null references run (id),
    -- The source's stable id in lower case.
    key text not null check (length(key) between 1 and 1000),
    action text not null check (action in ('join', 'change', 'leave', 'return')),
    person_id uuid not null,
    -- A joiner whom no other source has: the person begins with this step.
    is_new boolean not null default false,
    line bigint not null default 0,
    before_name text,
    before_facts jsonb,
    before_addresses text[],
    before_hash uuid,
    after_name text,
    after_facts jsonb,
    after_addresses text[],
    after_hash uuid
);
create index run_step_run_idx on run_step (run_id);
create index run_step_person_idx on run_step (person_id);
create trigger run_step_append_only before update or delete or truncate on run_step
    for each statement execute function refuse_change();

create table source_entry (
    source_id uuid not null references source (id),
    key text not null,
    person_id uuid not null references person (id),
    -- The step whose "after" this entry says.
    step bigint not null references run_step (number),
    content_hash uuid not null,
    is_listed boolean not null default true,
    primary key (source_id, key)
);
create index source_entry_person_idx on source_entry (person_id);

-- Files that were applied stay in the list of runs; their steps were audit lines then.
insert into run (id, source_id, source_version, kind, name, state, other_entries, started_by, started_by_name, started_at, applied_by_name, applied_at, problems)
select plan.id, plan.source_id, plan.source_version, 'file', plan.file_name, case when plan.applied_at is null then 'putAway' else 'applied' end, plan.other_entries,
    plan.created_by, app_user.display_name, plan.created_at, case when plan.applied_at is not null then app_user.display_name end, plan.applied_at, plan.problems
from import_plan plan join app_user on app_user.id = plan.created_by;
drop table import_person;
drop table import_plan;

-- People who are there become the steps of one run for each source. The hash of their contents is not known to SQL: zeros make the first
-- sync look at each of them again.
insert into run (id, source_id, source_version, kind, name, state, listed, started_by_name, applied_by_name, applied_at)
select gen_random_uuid(), id, version, 'file', 'People from before', 'applied', (select count(*) from person where source_id = source.id and retired_at is null), 'Relevo', 'Relevo', '2000-01-01'
from source;
insert into run_step (run_id, key, action, person_id, is_new, after_name, after_facts, after_addresses, after_hash)
select run.id, lower(source_key), 'join', person.id, true, distinguished_name, facts,
    array(select address from account where account.person_id = person.id and account.retired_at is null order by position),
    '00000000-0000-0000-0000-000000000000'
from person join run on run.source_id = person.source_id and run.name = 'People from before';
insert into source_entry (source_id, key, person_id, step, content_hash, is_listed)
select run.source_id, step.key, step.person_id, step.number, step.after_hash, person.retired_at is null
from run_step step join run on run.id = step.run_id join person on person.id = step.person_id;

drop index person_display_name_idx;
alter table person drop column source_id, drop column source_key, drop column distinguished_name, drop column display_name, drop column facts;
create index person_changed_idx on person (changed);

-- A mailbox that several people send from, with what it says for all of them.
create table mailbox (
    id uuid primary key,
    address text not null check (length(address) between 3 and 254 and position('@' in address) > 1),
    facts jsonb not null default '{}' check (jsonb_typeof(facts) = 'object'),
    revision integer not null default 1 check (revision > 0),
    retired_at timestamptz
);
create unique index mailbox_address_key on mailbox (lower(address)) where retired_at is null;

alter table account
    drop constraint account_kind_check,
    add constraint account_kind_check check (kind in ('own', 'alias', 'shared')),
    add column override jsonb not null default '{}' check (jsonb_typeof(override) = 'object'),
    add column mailbox_id uuid references mailbox (id),
    add constraint account_mailbox_check check ((kind = 'shared') = (mailbox_id is not null));
drop index account_address_key;
create unique index account_address_key on account (lower(address)) where retired_at is null and mailbox_id is null;
create unique index account_mailbox_key on account (mailbox_id, person_id) where retired_at is null and mailbox_id is not null;

-- The company and its parts, with the facts they hold for their people.
create table unit (
    id uuid primary key default gen_random_uuid(),
    kind text not null check (kind in ('company', 'entity', 'office', 'team')),
    name text not null check (length(name) between 1 and 200),
    parent_id uuid references unit (id),
    facts jsonb not null default '{}' check (jsonb_typeof(facts) = 'object'),
    revision integer not null default 1 check (revision > 0),
    changed xid8 not null default pg_current_xact_id(),
    retired_at timestamptz,
    check (parent_id is null or kind = 'team'),
    check (parent_id <> id)
);
create unique index unit_name_key on unit (kind, lower(name)) where retired_at is null;
create unique index unit_company_key on unit ((true)) where kind = 'company' and retired_at is null;
create index unit_changed_idx on unit (changed);
insert into unit (kind, name) values ('company', 'The company');

-- The company's own fields and its settings for the standard ones are one document, like the rules.
create table field_set (
    only_row boolean primary key default true check (only_row),
    document jsonb not null check (jsonb_typeof(document) = 'object'),
    revision integer not null default 1 check (revision > 0),
    changed xid8 not null default pg_current_xact_id()
);
insert into field_set (document) values ('{"own": [], "standard": {}}');
