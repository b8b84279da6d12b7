-- +goose Up
-- Where the last act about a thing wants it: in the bin, or where it lay. A line that an
-- earlier act left is passed over; what is under way is done first. Nothing once it is done.
alter table ledger add column bound text not null default '' check (bound in ('', 'bin', 'lies'));
update ledger l set bound = w.bound from (
  select distinct on (s.key) s.key, case s.act when 'discard' then 'bin' else 'lies' end as bound
  from steps s join runs r on r.id = s.run_id where s.act in ('discard', 'restore') and s.state = 'waiting' order by s.key, r.n desc) w
where l.key = w.key and l.ended_at is null;
create index ledger_bound on ledger (class_id) where bound <> '';
-- Of the lines about one thing one is in hand at a time, in whatever run.
update steps set lease_until = null where state = 'waiting';
create unique index steps_in_hand on steps (key) where state = 'waiting' and lease_until is not null;
