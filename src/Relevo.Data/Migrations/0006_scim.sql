-- Clients that push people (SCIM 2.0), and what they pushed.

create table scim_token (
    id uuid primary key,
    source_id uuid not null references source (id),
    name text not null check (length(name) between 1 and 200),
    token_hash bytea not null unique check (length(token_hash) = 32),
    created_by_name text not null,
    created_at timestamptz not null default now(),
    last_used_at timestamptz,
    revoked_at timestamptz
);
create index scim_token_source_idx on scim_token (source_id);

-- Resources as clients sent them. People come of users by the source's mapping; this is what the client asks back.
create table scim_resource (
    id uuid primary key,
    source_id uuid not null references source (id),
    kind text not null check (kind in ('user', 'group')),
    name text not null check (length(name) between 1 and 500),
    external_id text,
    is_active boolean not null default true,
    document jsonb not null check (jsonb_typeof(document) = 'object'),
    version integer not null default 1 check (version > 0),
    created_at timestamptz not null default now(),
    modified_at timestamptz not null default now()
);
create unique index scim_resource_user_key on scim_resource (source_id, lower(name)) where kind = 'user';
create index scim_resource_kind_idx on scim_resource (source_id, kind, id);
create index scim_resource_external_idx on scim_resource (source_id, external_id) where external_id is not null;
create index scim_resource_members_idx on scim_resource using gin ((document -> 'members') jsonb_path_ops) where kind = 'group';

-- An hour of pushes is one run; those that the brake holds are another.
create unique index run_push_key on run (source_id, name) where kind = 'push' and state = 'applied' and brake = '{}';
create unique index run_held_push_key on run (source_id, name) where kind = 'push' and state = 'held';
