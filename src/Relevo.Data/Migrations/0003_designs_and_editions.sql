create table picture (
    sha256 text primary key check (sha256 ~ '^[0-9a-f]{64}$'),
    name text not null check (length(name) between 1 and 200),
    width integer not null check (width > 0),
    height integer not null check (height > 0),
    bytes bytea not null,
    added_at timestamptz not null default now()
);

create table design (
    id uuid primary key,
    draft jsonb not null check (jsonb_typeof(draft) = 'object'),
    revision integer not null default 1 check (revision > 0),
    created_at timestamptz not null default now(),
    retired_at timestamptz
);

-- The rules are one document per company: their order is part of what they mean.
create table rule_set (
    only_row boolean primary key default true check (only_row),
    draft jsonb not null check (jsonb_typeof(draft) = 'object'),
    revision integer not null default 1 check (revision > 0)
);
insert into rule_set (draft) values ('{"signature": []}');

-- Text, not jsonb: the hash is over these very characters.
create table edition (
    number integer primary key check (number > 0),
    content text not null,
    sha256 text not null check (sha256 ~ '^[0-9a-f]{64}$'),
    published_by uuid not null references app_user (id),
    published_at timestamptz not null default now()
);
create trigger edition_immutable before update or delete or truncate on edition
    for each statement execute function refuse_change();
