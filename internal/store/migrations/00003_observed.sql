-- +goose Up
-- What was last seen in the cupboard of the ledger's things. One that isn't here
-- is as the ledger has it.
create table observed (
  thing        text primary key references ledger (thing) on delete cascade,
  asked        bigint not null, -- number of the asking: an earlier answer never takes the place of a later one
  place        text not null check (place in ('lies', 'in-bin', 'gone', 'unseen')),
  name         text not null,
  parent       text not null,
  owner        text not null,
  grants       jsonb not null,
  stands_alone boolean not null,
  closed       jsonb,
  version      integer not null,
  sha          text not null,
  changed_at   timestamptz,
  changed_by   text not null,
  inside       integer not null,
  inside_at    timestamptz,
  bin_until    timestamptz,
  measured     integer not null default 1 -- the version whose words were counted last
);
create index to_measure on observed (thing) where version > measured;
create sequence askings;

-- How far the cupboard's changes have been read, and which program reads them.
create table feed (
  id       integer primary key default 1 check (id = 1),
  position text, -- null: never read
  read_at  timestamptz,
  holder   text not null default '',
  until    timestamptz not null default '-infinity'
);
insert into feed default values;

-- What was worked out last of each class for the rail, and of which state: it
-- isn't worked out again while nothing has changed.
create table tabs (
  class_id uuid primary key references classes on delete cascade,
  tag      text not null,
  students integer not null,
  ready    boolean not null,
  notes    jsonb not null
);
