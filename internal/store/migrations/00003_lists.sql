-- +goose Up
-- What a list that waits to be accepted is besides its cells, and what was
-- answered about it; the sheets of its file that are not looked at.
alter table drafts add column settings jsonb not null default '{}', add column sheets jsonb not null default '[]';
alter table drafts alter column settings drop default, alter column sheets drop default;

-- What a teacher said about the columns of a list, for the next of that shape.
create table shapes (
  account text not null,
  shape   text not null,
  roles   jsonb not null,
  primary key (account, shape)
);

-- Every change of a roster with its rows before and after, so that it can be
-- looked up and taken back.
create table roster_history (
  id        uuid primary key,
  class_id  uuid not null references classes on delete cascade,
  batch     uuid not null,
  at        timestamptz not null,
  account   text not null,
  kind      text not null,
  source    text not null,
  changes   jsonb not null,
  undone_at timestamptz
);
create index on roster_history (class_id, at);
create index on roster_history (batch);

-- A practice class has invented students and is cleared away in one act.
alter table classes add column practice boolean not null default false;
alter table classes alter column practice drop default;
alter table work drop constraint work_thing_fkey, add foreign key (thing) references ledger (thing) on delete cascade;
alter table work_days drop constraint work_days_thing_fkey, add foreign key (thing) references ledger (thing) on delete cascade;
alter table openings drop constraint openings_thing_fkey, add foreign key (thing) references ledger (thing) on delete cascade;
