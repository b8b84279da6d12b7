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
  revision   bigint not null,
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

-- A person belongs to the school; a row puts a person in one class.
create table people (
  id         uuid primary key,
  account    text unique,
  number     text not null,
  given      text not null,
  family     text not null,
  preferred  text not null,
  address    text not null,
  created_at timestamptz not null,
  check (given <> '' or family <> '' or preferred <> '')
);
create index on people (lower(address));

create table rows (
  id        uuid primary key,
  class_id  uuid not null references classes on delete cascade,
  person_id uuid not null references people,
  class     text not null,
  period    text not null,
  level     text not null,
  team      text not null,
  extra     jsonb not null,
  added     bigint generated always as identity,
  left_at   timestamptz,
  unique (class_id, person_id)
);
create index on rows (person_id);

create table drafts (
  class_id   uuid primary key references classes on delete cascade,
  cells      jsonb not null,
  roles      jsonb not null,
  heading    integer,
  left_out   jsonb not null,
  without    boolean not null,
  source     text not null,
  changed_at timestamptz not null
);

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
