-- Drafts of ready-made texts; an edition holds its own copies.
create table ready_answer (
    id uuid primary key,
    draft jsonb not null,
    revision integer not null default 1,
    created_at timestamptz not null default now(),
    retired_at timestamptz
);
