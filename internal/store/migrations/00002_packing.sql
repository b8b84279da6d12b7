-- +goose Up
create table runs (
  id          uuid primary key,
  class_id    uuid not null references classes on delete cascade,
  handout_id  uuid references handouts on delete cascade,
  title       text not null,
  state       text not null check (state in ('packing', 'paused', 'stopped', 'done')),
  started_by  text not null,
  started_at  timestamptz not null,
  finished_at timestamptz
);
create index on runs (class_id, started_at);
create index runs_open on runs (id) where state = 'packing';

create table steps (
  run_id      uuid not null references runs on delete cascade,
  seq         integer not null,
  key         text not null,
  needs       text[] not null, -- keys of what must be there first
  person_id   text not null,
  wish        jsonb not null,
  state       text not null check (state in ('waiting', 'packed', 'stuck')),
  reason      jsonb,
  tries       integer not null default 0,
  not_before  timestamptz not null,
  lease_until timestamptz,
  worker      text,
  done_at     timestamptz,
  primary key (run_id, seq)
);
create index steps_waiting on steps (run_id, seq) where state = 'waiting';
create unique index on steps (run_id, key);
create index steps_stuck on steps (key) where state = 'stuck';

-- The lasting record behind the Register: one open entry per key.
create table ledger (
  id         uuid primary key,
  class_id   uuid not null references classes on delete cascade,
  key        text not null,
  purpose    text not null,
  person_id  uuid references people,
  handout_id uuid references handouts,
  thing      text not null unique,
  link       text not null,
  name       text not null,
  granted    jsonb not null,
  run_id     uuid not null,
  made_at    timestamptz not null,
  shared_at  timestamptz,
  pointer    text,
  ended_at   timestamptz
);
create unique index one_open_entry on ledger (key) where ended_at is null;
create unique index one_satchel on ledger (class_id, person_id) where purpose = 'satchel' and ended_at is null;
create index on ledger (class_id);

create table work (
  thing      text primary key references ledger (thing),
  version    integer not null,
  begun      boolean not null,
  added      integer not null,
  removed    integer not null
);

create table work_days (
  thing text not null references ledger (thing),
  day   date not null,
  added integer not null,
  primary key (thing, day)
);

create table openings (
  thing    text not null references ledger (thing),
  account  text not null,
  first_at timestamptz not null,
  primary key (thing, account)
);
