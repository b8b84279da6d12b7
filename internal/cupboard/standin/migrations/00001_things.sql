-- +goose Up
create schema if not exists standin;

create table standin.people (
  account text primary key
);

create table standin.contents (
  sha  bytea primary key,
  size bigint not null check (size >= 0)
);

create table standin.chunks (
  sha   bytea not null references standin.contents,
  n     integer not null,
  bytes bytea not null,
  primary key (sha, n)
);

create table standin.things (
  id           uuid primary key,
  link         text not null unique,
  kind         text not null check (kind in ('folder', 'file', 'pointer')),
  name         text not null check (name <> '' and octet_length(name) <= 255),
  parent       uuid references standin.things,
  above        uuid[] not null, -- the folders above, outermost first
  owner        text not null references standin.people,
  grants       jsonb not null,
  stands_alone boolean not null,
  target       uuid references standin.things,
  media_type   text not null,
  version      integer not null,
  size         bigint not null,
  sha          bytea references standin.contents,
  made_at      timestamptz not null,
  changed_at   timestamptz not null,
  changed_by   text not null,
  check ((kind = 'pointer') = (target is not null)),
  check ((kind = 'file') = (sha is not null))
);
create index on standin.things (parent);
create index on standin.things using gin (above);

create table standin.versions (
  thing uuid not null references standin.things,
  n     integer not null,
  sha   bytea not null references standin.contents,
  size  bigint not null,
  at    timestamptz not null,
  by    text not null,
  primary key (thing, n)
);

create table standin.answers (
  key     text primary key,
  thing   uuid not null references standin.things,
  version integer not null
);
