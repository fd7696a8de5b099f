-- Pictures made from others: by their own name, which says from what and how. Kept once somebody's signature showed them.
create table picture_cut (
    name text primary key,
    sha256 text not null,
    bytes bytea not null,
    made_at timestamptz not null default now()
);
create index picture_cut_sha256_idx on picture_cut (sha256);

-- Portraits and the like belong to a person's field; the library is what designs choose from.
alter table picture
    add column in_library boolean not null default true;
