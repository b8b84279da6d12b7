-- +goose Up
-- Students whom the office placed in a class: their teachers may print codes for them.
create table placements (
  class_id uuid        not null references classes on delete cascade,
  account  text        not null,
  by       text        not null,
  at       timestamptz not null,
  primary key (class_id, account)
);
-- Every code that was made for an account: by whom, until when it was good, and how it went out.
create table codes_made (
  id      uuid        primary key,
  account text        not null,
  by      text        not null,
  at      timestamptz not null,
  until   timestamptz not null,
  mailed  boolean     not null,
  away    boolean     not null -- the password it had was taken away
);
create index on codes_made (account, at desc);
-- How many mails somebody wrote lately is counted.
create index messages_written on messages (sent_by, made_at) where kind = 'written';
