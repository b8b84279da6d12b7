-- +goose Up
-- States of drafts that somebody showed: which version, with a word, and who of staff looked at it first.
create table snapshots (
  id         uuid primary key,
  class_id   uuid not null references classes on delete cascade,
  handout_id uuid not null,
  thing      text not null,
  version    integer not null,
  by         text not null, -- empty: at its time
  at         timestamptz not null,
  word       text not null,
  asked      boolean not null, -- somebody asks to have it looked at
  seen_by    text not null default '',
  seen_at    timestamptz,
  unique (thing, version)
);
create index on snapshots (class_id, thing, version desc);
-- Handouts whose copies are kept at some time are looked for often.
create index on handouts (id) where settings ->> 'show' <> '';
