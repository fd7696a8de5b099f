-- A rollout to everybody wrote each delivery's row twice, and hundreds of thousands of rows take their time. Who is in which wave is said once for each person now, which
-- edition a client is to hold follows from it, and its row is written when it is planned: by what its signatures are made of.
create table rollout_member (
    person_id uuid primary key,
    rollout_id bigint not null,
    wave integer not null
);
insert into rollout_member (person_id, rollout_id, wave)
select distinct on (client.person_id) client.person_id, delivery.rollout_id, delivery.wave
from delivery join client on client.id = delivery.client_id
where client.retired_at is null and delivery.wave is not null and delivery.rollout_id = (select max(id) from rollout)
order by client.person_id, delivery.wave;

-- What was planned before has no recipe: it is planned anew, and a client that holds it already is told nothing.
alter table delivery
    drop column planned_edition,
    drop column rollout_id,
    drop column wave,
    add column recipe uuid,
    add column held_recipe uuid;
-- A row that is written anew finds room beside what it was, as no index says anything but whose it is.
alter table delivery set (fillfactor = 50);

-- Clients that are to be planned and in no rollout's wave that begins: new ones, and those that are for other addresses now.
create table unplanned_client (
    client_id uuid primary key references client (id)
);
insert into unplanned_client (client_id) select client_id from delivery where edition is not null;
