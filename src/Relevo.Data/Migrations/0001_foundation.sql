-- People who may sign in, the audit log, and what the web framework keeps between processes.

create table app_user (
    id uuid primary key,
    sign_in_name text not null check (sign_in_name = lower(btrim(sign_in_name)) and length(sign_in_name) between 1 and 254),
    display_name text not null check (length(display_name) between 1 and 200),
    password_hash text not null,
    role text not null check (role in ('administrator', 'editor', 'approver', 'helpDesk', 'employee')),
    person_id uuid,
    created_at timestamptz not null default now(),
    retired_at timestamptz
);
create unique index app_user_sign_in_name_key on app_user (sign_in_name) where retired_at is null;

-- One row per name that failed lately; gone after a success.
create table sign_in_failure (
    sign_in_name text primary key check (length(sign_in_name) <= 254),
    failures integer not null check (failures > 0),
    last_failed_at timestamptz not null
);

create table data_protection_key (
    friendly_name text primary key,
    xml text not null,
    created_at timestamptz not null default now()
);

create table audit_line (
    id bigint generated always as identity primary key,
    at timestamptz not null default now(),
    actor_id uuid references app_user (id),
    actor_name text not null,
    action text not null check (length(action) between 1 and 100),
    record_kind text not null check (length(record_kind) between 1 and 50),
    record_id text not null,
    before jsonb,
    after jsonb
);
create index audit_line_record_idx on audit_line (record_kind, record_id, id);

-- Append-only by the database itself, not by good manners.
create function refuse_change() returns trigger language plpgsql as $$
begin
    raise exception 'rows of % are never changed or deleted', tg_table_name using errcode = 'restrict_violation';
end $$;
create trigger audit_line_append_only before update or delete or truncate on audit_line
    for each statement execute function refuse_change();
