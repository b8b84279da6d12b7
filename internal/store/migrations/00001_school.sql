-- +goose Up
create table sessions (
  token  text primary key,
  data   bytea not null,
  expiry timestamptz not null
);
create index on sessions (expiry);

create table classes (
  id         uuid primary key,
  code       text not null check (code <> ''),
  name       text not null check (name <> ''),
  period     text not null,
  plan       jsonb not null,
  revision   bigint not null, -- grows with everything the Register shows
  wants      bigint not null, -- grows with every change of what is wanted
  practice   boolean not null,
  created_at timestamptz not null
);

create table staff (
  class_id uuid not null references classes on delete cascade,
  account  text not null,
  role     text not null check (role in ('owner', 'teacher', 'assistant')),
  primary key (class_id, account)
);
create unique index one_owner on staff (class_id) where role = 'owner';
create index on staff (account);

-- A row puts somebody in one class, with names, number and address as that
-- class's list says them, linked to at most one student account.
create table rows (
  id        uuid primary key,
  class_id  uuid not null references classes on delete cascade,
  given     text not null,
  family    text not null,
  preferred text not null,
  number    text not null,
  address   text not null,
  class     text not null,
  period    text not null,
  level     text not null,
  team      text not null,
  extra     jsonb not null,
  account   text not null, -- linked to; empty: to none
  linked_by text not null, -- the address by which
  confirmed text not null, -- the account somebody said is this student's, whatever its name
  added     bigint generated always as identity,
  left_at   timestamptz,
  check (given <> '' or family <> '' or preferred <> '')
);
create index on rows (class_id, added);
create unique index one_row on rows (class_id, account) where account <> '';
create index on rows (account) where account <> '';

-- A column of teams, and its teams: their ids stay whatever they are called.
create table team_sets (
  id       uuid primary key,
  class_id uuid not null references classes on delete cascade,
  field    text not null,
  unique (class_id, field)
);
create table teams (
  id     uuid primary key,
  set_id uuid not null references team_sets on delete cascade,
  name   text not null check (name <> ''),
  fold   text not null,
  unique (set_id, fold)
);

-- A list that was brought in and not accepted yet. Its sheets are kept as they
-- came; what was corrected stands beside them.
create table drafts (
  id         uuid primary key,
  class_id   uuid not null unique references classes on delete cascade,
  revision   bigint not null,
  source     text not null,
  settings   jsonb not null,
  original   bytea, -- of a text that can be read in several ways
  changed_at timestamptz not null
);
alter table drafts alter column original set storage external;
create table draft_sheets (
  draft_id uuid not null references drafts on delete cascade,
  n        integer not null,
  name     text not null,
  hidden   boolean not null,
  hidden_columns jsonb not null,
  rows     bytea not null,
  primary key (draft_id, n)
);
alter table draft_sheets alter column rows set storage external;
create table draft_cells (
  draft_id uuid not null references drafts on delete cascade,
  sheet    text not null,
  line     integer not null,
  field    integer not null,
  value    text not null,
  primary key (draft_id, sheet, line, field)
);

-- What a teacher said about the columns of a list, for the next of that shape.
create table shapes (
  account text not null,
  shape   text not null,
  roles   jsonb not null,
  primary key (account, shape)
);

-- Every change of a roster with its rows before and after, so that it can be
-- looked up and taken back. wants is the class's after it: what was packed later
-- is told by that, whatever the clock says.
create table roster_history (
  id        uuid primary key,
  class_id  uuid not null references classes on delete cascade,
  batch     uuid not null,
  n         bigint generated always as identity,
  wants     bigint not null,
  at        timestamptz not null,
  account   text not null,
  kind      text not null,
  source    text not null,
  changes   jsonb not null,
  made      boolean not null, -- the class was made by this act
  undone_at timestamptz
);
create index on roster_history (class_id, n);
create index on roster_history (batch);

create table templates (
  id         uuid primary key,
  account    text not null,
  name       text not null check (name <> ''),
  thing      text not null,
  media_type text not null,
  created_at timestamptz not null
);
create index on templates (account);

create table handouts (
  id          uuid primary key,
  class_id    uuid not null references classes on delete cascade,
  title       text not null,
  template_id uuid references templates,
  settings    jsonb not null,
  due         timestamp,
  zone        text not null,
  created_at  timestamptz not null,
  changed_at  timestamptz not null,
  packed_at   timestamptz
);
create index on handouts (class_id);

-- Who did what, when, with which arguments. It outlives what it is about.
create table log (
  id       uuid primary key,
  n        bigint generated always as identity,
  at       timestamptz not null,
  account  text not null,
  class_id uuid,
  act      text not null,
  args     jsonb not null
);
create index on log (class_id, n);
create index on log (account, n);

-- What was asked for with a key, and the answer: asked again, it is answered
-- again; another content under the same key is refused.
create table keys (
  account text not null,
  key     text not null,
  digest  bytea not null,
  result  jsonb not null,
  at      timestamptz not null,
  primary key (account, key)
);
create index on keys (at);
