-- +goose Up
-- Where students ask to be let into a class: open until a moment, to whoever has its link.
create table join_doors (
  class_id  uuid        primary key references classes on delete cascade,
  link      text        not null unique, -- unguessable
  opened_by text        not null,
  until     timestamptz not null
);
-- Who asked, until a teacher of the class says yes or no.
create table join_asks (
  class_id uuid        not null references classes on delete cascade,
  account  text        not null,
  at       timestamptz not null,
  primary key (class_id, account)
);
create index on join_asks (account);
