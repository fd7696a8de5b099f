create table computer (
    id uuid primary key,
    name text not null check (length(name) between 1 and 200),
    person_id uuid not null references person (id),
    token_hash bytea not null unique check (length(token_hash) = 32),
    created_at timestamptz not null default now(),
    retired_at timestamptz,
    last_seen_at timestamptz
);
create index computer_person_idx on computer (person_id);

create table rollout (
    id bigint generated always as identity primary key,
    edition integer not null references edition (number),
    started_by uuid not null references app_user (id),
    started_at timestamptz not null default now(),
    ended_at timestamptz
);
-- One rollout runs at a time; starting another ends the one before it.
create unique index rollout_running_key on rollout ((true)) where ended_at is null;

-- One row per computer and rollout: this is why nothing is ever counted twice.
create table delivery (
    rollout_id bigint not null references rollout (id),
    computer_id uuid not null references computer (id),
    state text not null default 'waits' check (state in ('waits', 'onItsWay', 'inPlace', 'drifted', 'failed')),
    wanted_tag text not null default '' check (wanted_tag ~ '^([0-9a-f]{64})?$'),
    differing text[] not null default '{}',
    trouble text not null default '' check (length(trouble) <= 500),
    first_in_place_at timestamptz,
    last_drift_at timestamptz,
    put_right_at timestamptz,
    changed_at timestamptz not null default now(),
    primary key (rollout_id, computer_id)
);
create index delivery_computer_idx on delivery (computer_id);

-- A computer's story: one line for each change of state.
create table delivery_event (
    id bigint generated always as identity primary key,
    rollout_id bigint not null,
    computer_id uuid not null,
    at timestamptz not null default now(),
    state text not null check (state in ('waits', 'onItsWay', 'inPlace', 'drifted', 'failed')),
    detail text not null default '',
    foreign key (rollout_id, computer_id) references delivery (rollout_id, computer_id)
);
create index delivery_event_computer_idx on delivery_event (computer_id, id);
create trigger delivery_event_append_only before update or delete or truncate on delivery_event
    for each statement execute function refuse_change();
