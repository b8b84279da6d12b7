-- +goose Up
-- What was written in a copy after it closed, kept beside it: of each who wrote, the newest.
create table late (
  thing    text not null,
  account  text not null,
  class_id uuid not null references classes on delete cascade,
  text     text not null,
  at       timestamptz not null,
  primary key (thing, account)
);
create index on late (class_id);
