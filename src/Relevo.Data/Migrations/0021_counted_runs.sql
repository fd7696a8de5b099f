-- How many steps a run has of each kind is kept with it; of a run that grows with every push it is counted when somebody asks (null here).
alter table run
    add column join_count integer,
    add column change_count integer,
    add column leave_count integer,
    add column return_count integer,
    add column known_count integer; -- of those joining, people whom another source has already
update run set join_count = steps.join_count, change_count = steps.change_count, leave_count = steps.leave_count, return_count = steps.return_count, known_count = steps.known_count
from (
    select run.id, count(step.number) filter (where action = 'join') as join_count, count(step.number) filter (where action = 'change') as change_count,
        count(step.number) filter (where action = 'leave') as leave_count, count(step.number) filter (where action = 'return') as return_count,
        count(step.number) filter (where action = 'join' and not is_new) as known_count
    from run left join run_step step on step.run_id = run.id
    where run.kind <> 'push' group by run.id) steps
where run.id = steps.id;
