-- Steps and entries are written a hundred thousand at a time, and by eight clients at once; a foreign key looks each row's parent up again and
-- locks it, and there is one run and one source for all of them. These parents are never deleted, which they now say themselves, and their
-- children are made from them in one statement.
create trigger source_stays before delete or truncate on source for each statement execute function refuse_change();
create trigger run_stays before delete or truncate on run for each statement execute function refuse_change();
alter table scim_resource drop constraint scim_resource_source_id_fkey;
alter table run_step drop constraint run_step_run_id_fkey;
alter table source_entry drop constraint source_entry_source_id_fkey, drop constraint source_entry_step_fkey;
