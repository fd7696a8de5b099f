-- Looks that were kept to be used again; a design has a copy of its own.
create table theme (
    id uuid primary key,
    name text not null check (length(name) between 1 and 100),
    content jsonb not null,
    created_at timestamptz not null default now()
);
create unique index theme_name_idx on theme (lower(name));
