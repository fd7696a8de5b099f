-- Computers become one kind of installed client among others, and a delivery belongs to a client and no longer to a rollout.
alter table computer rename to client;
alter index computer_person_idx rename to client_person_idx;
alter table client
    add column kind text not null default 'desk-app' check (kind ~ '^[a-z0-9-]{1,40}$'),
    add column outside_id text not null default '' check (length(outside_id) <= 400),
    add column is_for_all boolean not null default false,
    add column is_by_hand boolean not null default false,
    add column addresses text[] not null default '{}',
    add column next_token_hash bytea unique check (length(next_token_hash) = 32),
    alter column token_hash drop not null;
alter table client alter column kind drop default;
create unique index client_outside_key on client (kind, outside_id) where outside_id <> '' and retired_at is null;

-- A code that makes a client, once.
create table enrolment (
    code_hash bytea primary key check (length(code_hash) = 32),
    client_id uuid not null references client (id),
    expires_at timestamptz not null,
    used_at timestamptz
);

alter table rollout
    add column state text not null default 'done' check (state in ('running', 'paused', 'done', 'stopped')),
    add column note text not null default '' check (length(note) <= 500),
    add column is_forgiven boolean not null default false;
alter table rollout alter column state set default 'running';
update rollout set ended_at = started_at where ended_at is null;

create table wave (
    rollout_id bigint not null references rollout (id),
    number integer not null check (number >= 0),
    plan jsonb not null check (jsonb_typeof(plan) = 'object'),
    state text not null default 'waits' check (state in ('waits', 'open', 'passed', 'skipped')),
    opened_at timestamptz,
    ended_at timestamptz,
    primary key (rollout_id, number)
);

alter table delivery rename to former_delivery;
alter table former_delivery rename constraint delivery_pkey to former_delivery_pkey;
alter table delivery_event rename to former_delivery_event;
alter index delivery_event_computer_idx rename to former_delivery_event_computer_idx;
alter table former_delivery_event rename constraint delivery_event_pkey to former_delivery_event_pkey;

-- One row per client, changed only under its lock: this is why nothing is ever counted twice.
create table delivery (
    client_id uuid primary key references client (id),
    kind text not null,
    edition integer references edition (number),
    planned_edition integer,
    rollout_id bigint references rollout (id),
    wave integer,
    state text not null default 'waits' check (state in ('waits', 'onItsWay', 'inPlace', 'drifted', 'failed')),
    wanted_tag text not null default '' check (wanted_tag ~ '^([0-9a-f]{64})?$'),
    told_tag text not null default '' check (told_tag ~ '^([0-9a-f]{64})?$'),
    held_tag text not null default '' check (held_tag ~ '^([0-9a-f]{64})?$'),
    differing text[] not null default '{}',
    trouble text not null default '' check (length(trouble) <= 500),
    failures integer not null default 0 check (failures >= 0),
    next_attempt_at timestamptz,
    is_set_aside boolean not null default false,
    is_fixed boolean not null default true,
    leased_by text,
    leased_until timestamptz,
    first_in_place_at timestamptz,
    last_drift_at timestamptz,
    put_right_at timestamptz,
    looked_at timestamptz,
    changed_at timestamptz not null default now()
);
create index delivery_unplanned_idx on delivery (client_id) where edition is distinct from planned_edition;
create index delivery_wave_idx on delivery (rollout_id, wave);
create index delivery_work_idx on delivery (kind, next_attempt_at) where state <> 'inPlace';

insert into delivery (client_id, kind, edition, rollout_id, wave, state, wanted_tag, told_tag, held_tag, differing, trouble, first_in_place_at, last_drift_at, put_right_at, changed_at)
select client.id, client.kind, rollout.edition, rollout.id, 0, coalesce(former.state, 'waits'), coalesce(former.wanted_tag, ''), coalesce(former.wanted_tag, ''),
    case when former.state = 'inPlace' then former.wanted_tag else '' end, coalesce(former.differing, '{}'), coalesce(former.trouble, ''),
    former.first_in_place_at, former.last_drift_at, former.put_right_at, coalesce(former.changed_at, now())
from client
left join lateral (select id, edition from rollout order by id desc limit 1) rollout on true
left join former_delivery former on former.rollout_id = rollout.id and former.computer_id = client.id
where client.retired_at is null;

insert into wave (rollout_id, number, plan, state, opened_at, ended_at)
select id, 0, '{"name": "Everybody", "people": {"kind": "everybody"}, "start": {"kind": "atOnce"}, "gate": {"mostTrouble": 5, "leastInPlace": 90}}', 'passed', started_at, ended_at from rollout;

-- A client's story: one line for each change of state.
create table delivery_event (
    id bigint generated always as identity primary key,
    client_id uuid not null references client (id),
    at timestamptz not null default now(),
    edition integer,
    state text not null check (state in ('waits', 'onItsWay', 'inPlace', 'drifted', 'failed')),
    tag text not null default '',
    detail text not null default ''
);
create index delivery_event_client_idx on delivery_event (client_id, id);
insert into delivery_event (client_id, at, edition, state, detail)
select event.computer_id, event.at, rollout.edition, event.state, event.detail from former_delivery_event event join rollout on rollout.id = event.rollout_id order by event.id;
drop table former_delivery_event;
drop table former_delivery;
create trigger delivery_event_append_only before update or delete or truncate on delivery_event
    for each statement execute function refuse_change();

-- What was found in a client when it was seen to have drifted last.
create table found_content (
    client_id uuid not null references client (id),
    path text not null check (length(path) <= 1000),
    content text not null check (length(content) <= 200000),
    at timestamptz not null default now(),
    primary key (client_id, path)
);

-- Where a rollout stood, minute by minute.
create table rollout_progress (
    rollout_id bigint not null references rollout (id),
    at timestamptz not null default now(),
    waits integer not null,
    on_its_way integer not null,
    in_place integer not null,
    drifted integer not null,
    failed integer not null,
    silent integer not null,
    primary key (rollout_id, at)
);

-- How clients are treated: one document per company.
create table client_settings (
    only_row boolean primary key default true check (only_row),
    settings jsonb not null default '{}' check (jsonb_typeof(settings) = 'object'),
    revision integer not null default 1 check (revision > 0),
    held_changes integer not null default 0,
    let_go_at timestamptz
);
insert into client_settings default values;

-- The server of the mailboxes whose identities are set.
create table mailbox_server (
    only_row boolean primary key default true check (only_row),
    session_url text not null check (length(session_url) between 1 and 2000),
    secret text not null,
    revision integer not null default 1 check (revision > 0),
    looked_at timestamptz,
    trouble text not null default '' check (length(trouble) <= 500)
);

create table notice (
    id bigint generated always as identity primary key,
    at timestamptz not null default now(),
    kind text not null,
    text text not null check (length(text) <= 1000),
    -- Whom it is for; null for every administrator.
    person_id uuid references person (id),
    seen_at timestamptz,
    mailed_at timestamptz
);
create index notice_unseen_idx on notice (id) where seen_at is null;
create index notice_unmailed_idx on notice (id) where mailed_at is null;

-- Keys with which device profiles are signed. Private keys are protected by the server that wrote them.
create table signing_key (
    id text primary key check (length(id) between 1 and 100),
    secret text not null,
    created_at timestamptz not null default now()
);
