-- +goose Up
-- What a teacher decided about the things of somebody who left, and, of somebody
-- who came from another class, whether the satchel comes along. A decision holds
-- for the leaving or coming it was made after.
create table decisions (
  row_id   uuid primary key references rows on delete cascade,
  decision text not null check (decision in ('keep', 'hand-over', 'bin', 'along', 'anew')),
  by       text not null,
  at       timestamptz not null
);

-- What a run made is counted.
create index on ledger (run_id);
