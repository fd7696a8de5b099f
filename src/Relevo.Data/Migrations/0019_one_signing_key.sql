-- Servers that made the first key at the same moment could keep one each. All of them signed with the youngest, which stays.
delete from signing_key where id <> (select id from signing_key order by created_at desc, id limit 1);
create unique index signing_key_only on signing_key ((true));
