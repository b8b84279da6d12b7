-- +goose Up
-- To whom a thing was handed over, and whether staff were let out of it then: nothing of the class
-- is done with it any more.
alter table ledger add handed_to text not null default '', add handed_off boolean not null default false;
update ledger l set handed_to = r.account from decisions d join rows r on r.id = d.row_id
  where d.decision = 'hand-over' and l.row_id = r.id and l.ended_at is null and r.account <> '';
