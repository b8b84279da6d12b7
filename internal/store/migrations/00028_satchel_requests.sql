-- +goose Up
-- A teacher asks for the satchel that a student of theirs had in a class they left: the
-- teachers of that class, or the office, say yes or no.
create table satchel_requests (
  row_id     uuid        primary key references rows on delete cascade,  -- in the class they are in now
  old_row_id uuid        not null references rows on delete cascade,     -- in the class they left
  entry      uuid        not null references ledger on delete cascade,   -- the satchel
  asked_by   text        not null,
  at         timestamptz not null
);
create index on satchel_requests (old_row_id);
alter table decisions drop constraint decisions_decision_check;
alter table decisions add check (decision in ('keep', 'hand-over', 'bin', 'along', 'anew', 'asked', 'refused'));
