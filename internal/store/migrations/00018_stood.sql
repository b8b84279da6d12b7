-- +goose Up
-- The class list as it stood whenever a handout was packed or put up: whom it was given
-- to, who was left out, and who was to be fixed first, by the names of then.
create table stood (
  id         uuid primary key,
  class_id   uuid        not null references classes on delete cascade,
  handout_id uuid        not null references handouts on delete cascade,
  at         timestamptz not null,
  by         text        not null,
  students   jsonb       not null
);
create index stood_handout on stood (handout_id, at);
