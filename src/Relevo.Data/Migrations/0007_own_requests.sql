-- What employees ask for in fields that need an administrator's yes; one wish for each field, gone when it is answered.
create table own_request (
    person_id uuid not null references person (id),
    field text not null check (length(field) between 1 and 100),
    value text check (length(value) <= 1000),
    requested_at timestamptz not null default now(),
    primary key (person_id, field)
);
