create table source (
    id uuid primary key,
    kind text not null check (kind in ('ldif')),
    name text not null check (length(name) between 1 and 200),
    -- Counts applied syncs: a plan made against an older state is refused.
    version bigint not null default 0 check (version >= 0)
);

create table person (
    id uuid primary key,
    source_id uuid not null references source (id),
    source_key text not null check (length(source_key) between 1 and 1000),
    distinguished_name text not null,
    display_name text not null,
    facts jsonb not null check (jsonb_typeof(facts) = 'object'),
    retired_at timestamptz,
    updated_at timestamptz not null default now()
);
create unique index person_source_key_key on person (source_id, lower(source_key));
create index person_display_name_idx on person (lower(display_name), id) where retired_at is null;

alter table app_user add constraint app_user_person_fk foreign key (person_id) references person (id);

-- One address one person may send from. Rows are retired, not deleted: deliveries and audit lines name them.
create table account (
    id uuid primary key default gen_random_uuid(),
    person_id uuid not null references person (id),
    address text not null check (length(address) between 3 and 254 and position('@' in address) > 1),
    kind text not null check (kind in ('own', 'alias')),
    position integer not null check (position >= 0),
    retired_at timestamptz
);
create unique index account_address_key on account (lower(address)) where retired_at is null;
create index account_person_idx on account (person_id, position);

create table import_plan (
    id uuid primary key,
    source_id uuid not null references source (id),
    source_version bigint not null,
    file_name text not null check (length(file_name) between 1 and 260),
    other_entries integer not null,
    problems jsonb not null check (jsonb_typeof(problems) = 'array'),
    created_by uuid not null references app_user (id),
    created_at timestamptz not null default now(),
    applied_at timestamptz,
    check (applied_at is null or jsonb_array_length(problems) = 0)
);

create table import_person (
    plan_id uuid not null references import_plan (id) on delete cascade,
    source_key text not null,
    distinguished_name text not null,
    facts jsonb not null,
    addresses text[] not null,
    line bigint not null check (line > 0),
    primary key (plan_id, source_key)
);
