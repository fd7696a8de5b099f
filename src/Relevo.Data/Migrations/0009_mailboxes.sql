-- Who may send from a shared mailbox: everybody in its groups, and people named by hand. An account of kind 'shared' is the outcome of both.
alter table mailbox
    add column groups text[] not null default '{}';
create table mailbox_sender (
    mailbox_id uuid not null references mailbox (id),
    person_id uuid not null references person (id),
    primary key (mailbox_id, person_id)
);
create index mailbox_sender_person_idx on mailbox_sender (person_id);

-- Somebody whom an administrator retired stays retired, whatever sources list; and fields opened to single people.
alter table person
    add column retired_by_hand boolean not null default false,
    add column opened text[] not null default '{}',
    add check (not retired_by_hand or retired_at is not null);
