-- Who has a design open in an editor, said again every few seconds. Worth nothing after a crash.
create unlogged table design_editor (
    design_id uuid not null references design (id) on delete cascade,
    user_id uuid not null,
    name text not null,
    seen_at timestamptz not null default now(),
    primary key (design_id, user_id)
);
