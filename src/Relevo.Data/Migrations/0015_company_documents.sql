-- Drafts that are kept alike: ready answers, disclaimers, banners, and the one audience book. An edition holds its own copies.
create table company_document (
    id uuid primary key,
    kind text not null check (kind in ('answer', 'disclaimer', 'banner', 'audiences')),
    draft jsonb not null check (jsonb_typeof(draft) = 'object'),
    revision integer not null default 1 check (revision > 0),
    created_at timestamptz not null default now(),
    retired_at timestamptz
);
create unique index company_document_one_book on company_document (kind) where kind = 'audiences';
insert into company_document (id, kind, draft) values ('00000000-0000-4000-8000-00000000a0d1', 'audiences', '{"ownDomains": [], "withSubdomains": true, "named": []}');
insert into company_document (id, kind, draft, revision, created_at, retired_at) select id, 'answer', draft, revision, created_at, retired_at from ready_answer;
drop table ready_answer;
