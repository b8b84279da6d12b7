-- +goose Up
-- What checks of who reaches what found, of each class the last ones.
create table door_checks (
  id          uuid primary key,
  class_id    uuid not null references classes on delete cascade,
  at          timestamptz not null,
  by          text not null, -- empty: by itself
  differences integer not null,
  noted       integer not null, -- of those, what nothing else tells of
  report      jsonb not null
);
create index on door_checks (class_id, at desc);
-- Differences that are left as they are, on purpose.
create table door_left (
  class_id   uuid not null references classes on delete cascade,
  difference text not null,
  by         text not null,
  at         timestamptz not null,
  primary key (class_id, difference)
);
-- A run puts right what a check found.
alter table runs drop constraint runs_kind_check, add constraint runs_kind_check check (kind in ('pack', 'discard', 'mend'));
