-- +goose Up
-- What somebody put off on their page of today until the next day: while it grows no larger.
create table put_off (
  account  text    not null,
  class_id uuid    not null references classes on delete cascade,
  code     text    not null,
  about    text    not null,
  day      date    not null,
  count    integer not null,
  primary key (account, class_id, code, about)
);
-- Whose a session is, on what, since when and when it was last used. Those from before, of which
-- nobody knows that, end.
delete from sessions;
alter table sessions
  add column id       text        not null default '',
  add column account  text        not null default '',
  add column agent    text        not null default '',
  add column began_at timestamptz,
  add column seen_at  timestamptz;
create index on sessions (account) where account <> '';
