-- +goose Up
create table runs (
  id          uuid primary key,
  class_id    uuid not null references classes on delete cascade,
  handout_id  uuid references handouts on delete cascade,
  n           bigint generated always as identity,
  title       text not null,
  state       text not null check (state in ('packing', 'paused', 'stopped', 'done')),
  wants       bigint not null, -- the class's when the list was made
  started_by  text not null,
  started_at  timestamptz not null,
  finished_at timestamptz
);
create index on runs (class_id, n);
create index runs_open on runs (id) where state = 'packing';

create table steps (
  run_id      uuid not null references runs on delete cascade,
  seq         integer not null,
  key         text not null,
  act         text not null,
  account     text not null, -- whose access a step is about
  generation  integer not null check (generation > 0),
  needs       text[] not null, -- keys of what must be there first
  wanted      jsonb not null,
  change      jsonb,
  state       text not null check (state in ('waiting', 'packed', 'stuck', 'passed-over')),
  reason      jsonb,
  tries       integer not null default 0,
  not_before  timestamptz not null,
  lease_until timestamptz,
  worker      text,
  done_at     timestamptz,
  primary key (run_id, seq)
);
create index steps_waiting on steps (run_id, seq) where state = 'waiting';
create unique index on steps (run_id, key, act, account);
create index steps_stuck on steps (key) where state = 'stuck';

-- The lasting record behind the Register: one open entry per key.
create table ledger (
  id         uuid primary key,
  class_id   uuid not null references classes on delete cascade,
  key        text not null,
  generation integer not null check (generation > 0),
  purpose    text not null,
  row_id     uuid references rows,
  team_id    uuid references teams,
  handout_id uuid references handouts,
  thing      text not null unique,
  link       text not null,
  name       text not null, -- the one given last
  granted    jsonb not null, -- whom we gave which level
  pointers   jsonb not null, -- key of the folder → id of the pointer in it
  run_id     uuid not null,
  made_at    timestamptz not null,
  shared_at  timestamptz,
  ended_at   timestamptz
);
create unique index one_open_entry on ledger (key) where ended_at is null;
create unique index one_generation on ledger (key, generation);
create unique index one_satchel on ledger (class_id, row_id) where purpose = 'satchel' and ended_at is null;
create index on ledger (class_id);
create index on ledger (row_id);

create table work (
  thing   text primary key references ledger (thing) on delete cascade,
  version integer not null,
  begun   boolean not null,
  added   integer not null,
  removed integer not null
);

create table work_days (
  thing text not null references ledger (thing) on delete cascade,
  day   date not null,
  added integer not null,
  primary key (thing, day)
);

create table openings (
  thing    text not null references ledger (thing) on delete cascade,
  account  text not null,
  first_at timestamptz not null,
  primary key (thing, account)
);
